"""How soon a page is told of what a machine reports."""

import json
import re
import time
from collections.abc import Iterator
from pathlib import Path
from typing import IO
from urllib.request import build_opener

import numpy as np
from visitor import Visitor

from standins.controller import Settings
from standins.controller.server import StandIn
from support.running import running_workshop

_PLACE = re.compile(r"<\w[^|]*\|MPos:(-?[\d.]+),")


class Noting:
    """A stand-in in this process that notes when it first reported each place."""

    def __init__(self) -> None:
        self.standin = StandIn(Settings(), pace=1.0, patience_s=2.0)
        self.at: dict[float, float] = {}
        device = self.standin.controller.device
        say = device._say  # noqa: SLF001 (what leaves it, at the moment it leaves)

        def noting(text: str) -> None:
            if found := _PLACE.match(text):
                self.at.setdefault(float(found[1]), time.perf_counter())
            say(text)

        device._say = noting  # noqa: SLF001


def _told_place(events: IO[bytes]) -> float:
    """Return the head's x of the next event that has one."""
    while True:
        line = events.readline()
        if not line:
            raise TimeoutError
        if line.startswith(b"data:"):
            bed = json.loads(line.removeprefix(b"data:")).get("bed")
            if bed:
                return float(bed[0])


def _steps(address: str, noting: Noting, count: int) -> Iterator[tuple[float, float]]:
    """Yield after how many ms a page is told of a step: since the press, the report."""
    visitor = Visitor(address)
    visitor.get("/bench/machines/1/")
    visitor.post("/bench/machines/1/do/go-to/", x="100", y="100")
    time.sleep(3)
    events = build_opener().open(address + "/bench/machines/1/events/", timeout=30)
    with events:
        place = _told_place(events)
        for _ in range(count):
            # A place it never was at before, so that a report of it is of this step.
            begun = time.perf_counter()
            visitor.post("/bench/machines/1/do/jog/", x="0.1", y="0")
            while abs(_told_place(events) - place - 0.1) > 0.01:
                pass
            told = time.perf_counter()
            place += 0.1
            reported = min(noting.at, key=lambda at: abs(at - place))
            yield 1000 * (told - begun), 1000 * (told - noting.at[reported])
            time.sleep(0.3)


def told(folder: Path, count: int) -> Iterator[str]:
    """Yield how soon a page is told, as lines."""
    noting = Noting()
    with noting.standin as standin:
        ports = str(standin.port), str(standin.witness_port)
        with running_workshop(folder, ports=ports) as running:
            found = np.array(list(_steps(running.address, noting, count)))
    whats = ("a step of the head, from press", "a machine's report, from its sending")
    for what, took in zip(whats, found.T, strict=True):
        middle, most = np.median(took), np.percentile(took, 99)
        yield (
            f"{what} to the page: median {middle:.0f} ms, "
            f"99 % within {most:.0f} ms ({count} steps)"
        )
