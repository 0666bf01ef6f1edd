"""Breaks of the link and of the machine: when the beam is out, and what is burned after."""

import json
import random
import signal
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from shop import DOTS, MOTION, OVERLAP, ROWS, Shop

from standins.controller import Machine, Settings
from standins.controller.trouble import Trouble
from support.ports import rows
from workshop.controller.errors import LinkError

CELL, SHAPE = (0.1, 0.1), (ROWS + 2, DOTS + 4)

Break = Callable[["Shop"], object]


@dataclass
class Figures:
    """What was seen of one kind of fault."""

    dark_ms: list[float] = field(default_factory=list)
    left_on: int = 0
    wrong_log: int = 0
    unequal: int = 0
    unfinished: int = 0

    def line(self, name: str) -> str:
        """Return the figures as a line."""
        dark = np.array(self.dark_ms or [0.0])
        return (
            f"{name:34s} {len(self.dark_ms):4d} times  beam out after "
            f"{np.median(dark):6.1f} ms, 95 % {np.percentile(dark, 95):6.1f}, "
            f"at most {dark.max():7.1f}  "
            f"left on {self.left_on}  log wrong {self.wrong_log}  "
            f"map unequal {self.unequal}  unfinished {self.unfinished}"
        )


def burned(machine: Machine) -> np.ndarray:
    """Return the energy of each dot."""
    return np.asarray(machine.map(-0.05, -0.05, CELL, SHAPE))


def planned() -> np.ndarray:
    """Return the energy of each dot of an uninterrupted burn."""
    machine = Machine(Settings(look_ahead=16, **MOTION))
    for line in rows(ROWS, DOTS)[0]:
        machine.take(line)
    machine.run()
    return burned(machine)


def rows_burned(machine: Machine, plan: np.ndarray) -> int:
    """Return how many rows from the first on have all their dots."""
    whole = ((burned(machine) > plan / 2) | (plan == 0)).all(axis=1)[::-1]
    return int(np.argmin(whole)) if not whole.all() else len(whole)


def logged(path: Path) -> int:
    """Return how many rows the journal says are burned."""
    found = 0
    for line in path.with_suffix(".journal").read_text().splitlines():
        try:
            found = max(found, json.loads(line)["rows"])
        except ValueError:
            continue
    return found


def once(
    shop: Shop, plan: np.ndarray, figures: Figures, breaks: Break, seconds: float
) -> None:
    """Burn, break it off, look, go on to the end, compare."""
    with shop.standin.controller.lock:
        shop.standin.controller.device.become(Settings(look_ahead=16, **MOTION))
    name = str(time.time_ns())
    path = shop.start(name)
    time.sleep(seconds)
    begun = time.perf_counter()
    breaks(shop)
    figures.dark_ms.append(shop.watch.dark_after(begun))
    figures.left_on += shop.machine.lit
    said, true = logged(path), rows_burned(shop.machine, plan)
    figures.wrong_log += said > true
    if breaks is kill:
        shop.link.wait()
        shop.link.stdout.close()
        shop.begin_link()
    finish(shop, plan, figures, max(said - OVERLAP, 0))


def finish(shop: Shop, plan: np.ndarray, figures: Figures, first: int) -> None:
    """Go on from a row and compare all of it with the plan."""
    until, name = time.monotonic() + 60, str(time.time_ns())
    while time.monotonic() < until:
        try:
            shop.ask("home")  # who lost the place finds it again
            shop.start(name, first)
            break
        except LinkError:
            time.sleep(0.2)
    while time.monotonic() < until:
        known = shop.ask("program", name=name)
        if known and known["state"] == "done":
            wrong = (burned(shop.machine) > plan.max() / 2) != (plan > plan.max() / 2)
            figures.unequal += bool(wrong.any())
            return
        if known and known["state"] in ("failed", "stopped"):
            break
        time.sleep(0.05)
    figures.unfinished += 1


def kill(shop: Shop) -> None:
    """Kill the link process without a warning."""
    shop.link.send_signal(signal.SIGKILL)


def trouble(kind: str) -> Break:
    """Return what lets something go wrong with the stand-in."""
    return lambda shop: shop.standin.controller.trouble_with(Trouble(kind, 0))


KINDS: dict[str, tuple[Break, bool]] = {
    "link killed (kill -9)": (kill, True),
    "cable cut, board notices": (trouble("cut"), True),
    "cable cut, board does not notice": (trouble("cut"), False),
    "machine silent": (trouble("silence"), True),
    "limit switch": (trouble("limit"), True),
    "board resets itself": (trouble("reset"), True),
    "power lost": (trouble("power"), True),
}


def broken(count: int) -> Iterator[tuple[str, int]]:
    """Yield what was seen of each kind of break, as a line, and how much went wrong."""
    chance, plan = random.Random(7), planned()  # noqa: S311 (no secret)
    yield f"{ROWS} rows of {DOTS} dots, 16 blocks, 128 bytes, pace 1; M4", 0
    for name, (breaks, notices) in KINDS.items():
        figures = Figures()
        with tempfile.TemporaryDirectory() as folder:
            shop = Shop(Path(folder), notices_cut=notices)
            times = count if breaks is kill else max(count // 10, 3)
            for _ in range(times):
                once(shop, plan, figures, breaks, chance.uniform(0.02, 1.8))
            shop.close()
        wrong = figures.left_on + figures.wrong_log + figures.unequal + figures.unfinished
        yield figures.line(name), wrong
