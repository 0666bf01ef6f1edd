"""The whole program: its parts killed amid a burn, and four who start one at once."""

import json
import random
import sqlite3
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from http.cookiejar import CookieJar
from pathlib import Path
from typing import IO, Any
from urllib.error import HTTPError
from urllib.parse import urlencode
from urllib.request import HTTPCookieProcessor, Request, build_opener

import numpy as np

from support.running import Running, fill, running_workshop, wait_for_answer

JOB, PACE = 402, 20
_ENDED = ("done", "failed", "stopped")


class Visitor:
    """Somebody with a browser."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._jar = CookieJar()
        self._opener = build_opener(HTTPCookieProcessor(self._jar))

    def get(self, path: str) -> str:
        """Return a page."""
        with self._opener.open(self.address + path, timeout=30) as answer:
            return str(answer.read().decode())

    def post(self, path: str, **words: str) -> int:
        """Post words; return the answer's status."""
        token = next(one.value for one in self._jar if one.name == "csrftoken")
        headers = {"X-CSRFToken": str(token), "Referer": self.address}
        ask = Request(self.address + path, urlencode(words).encode(), headers)
        try:
            with self._opener.open(ask, timeout=60) as answer:
                return int(answer.status)
        except HTTPError as error:
            return error.code


def asked(folder: Path, question: str) -> Any:
    """Ask the program's table of burns past the program."""
    with sqlite3.connect(folder / "workshop.sqlite3", timeout=20) as base:
        return base.execute(question).fetchone()


def ended(folder: Path, pk: int, most_s: float = 180) -> tuple[str, int | None, str]:
    """Wait for the end of a burn; return state, dots off and its sentence."""
    until = time.monotonic() + most_s
    question = f"select state, dots_wrong, error from bench_run where id = {pk}"  # noqa: S608
    while time.monotonic() < until:
        state, wrong, error = asked(folder, question)
        if state in _ENDED:
            return state, wrong, error
        time.sleep(0.1)
    return "no end", None, ""


def killed(running: Running, folder: Path, part: str, wait_s: float) -> bool:
    """Kill a part amid a burn and begin it again; return whether all went well."""
    visitor = Visitor(running.address)
    visitor.get(f"/jobs/{JOB}/check/")
    visitor.post(f"/jobs/{JOB}/sign/", initials="mk")
    visitor.post(f"/bench/jobs/{JOB}/burn/")
    [pk] = asked(folder, "select max(id) from bench_run")
    # From the moment it burns: one that is still being prepared may be given up.
    until = time.monotonic() + 60
    while asked(folder, f"select state from bench_run where id = {pk}")[0] == "waiting":  # noqa: S608
        if time.monotonic() > until:
            return False
        time.sleep(0.02)
    time.sleep(wait_s)
    running.kill(part)
    time.sleep(0.2)
    running.again(part)
    if part == "web":
        wait_for_answer(running.address)
    state, wrong, _ = ended(folder, pk)
    return (state, wrong) == ("done", 0)


def four_starts(running: Running, folder: Path) -> int:
    """Let four start one job at once; return how many burns came of it."""
    visitor = Visitor(running.address)
    visitor.get(f"/jobs/{JOB}/check/")
    [before] = asked(folder, "select count(*) from bench_run")
    with ThreadPoolExecutor(4) as pool:
        list(pool.map(lambda _: visitor.post(f"/bench/jobs/{JOB}/burn/"), range(4)))
    [after, pk] = asked(folder, "select count(*), max(id) from bench_run")
    visitor.post(f"/bench/runs/{pk}/stop/")
    ended(folder, pk)
    return int(after - before)


def locked(running: Running, folder: Path) -> tuple[int, float]:
    """Ask for a change while another process has the base; return status and seconds."""
    visitor = Visitor(running.address)
    visitor.get(f"/jobs/{JOB}/tone/")
    with sqlite3.connect(folder / "workshop.sqlite3", isolation_level=None) as base:
        base.execute("begin immediate")
        begun = time.perf_counter()
        status = visitor.post(f"/jobs/{JOB}/tone/", gamma="1.3", changed="gamma")
        took = time.perf_counter() - begun
        base.execute("rollback")
    return status, took


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


def told_after(running: Running, count: int) -> list[float]:
    """Return after how many ms a page is told of a step of the head, by events."""
    visitor, found = Visitor(running.address), []
    visitor.get("/bench/machines/1/")
    visitor.post("/bench/machines/1/do/go-to/", x="100", y="100")
    time.sleep(3)
    address = running.address + "/bench/machines/1/events/"
    events = build_opener().open(address, timeout=30)
    with events:
        place = _told_place(events)
        for at in range(count):
            step, begun = (0.1 if at % 2 else -0.1), time.perf_counter()
            visitor.post("/bench/machines/1/do/jog/", x=str(step), y="0")
            # What was told before, or on the way, is not the step.
            while abs(_told_place(events) - place - step) > 0.01:
                pass
            place += step
            found.append(1000 * (time.perf_counter() - begun))
            time.sleep(0.3)
    return found


def broken(count: int) -> Iterator[tuple[str, int]]:
    """Yield what was seen, as lines, and how much went wrong."""
    chance = random.Random(9)  # noqa: S311 (no secret)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "var"
        fill(folder)
        with running_workshop(folder, pace=PACE) as running:
            for part in ("worker", "web"):
                went = [
                    killed(running, folder, part, chance.uniform(0, 2.5))
                    for _ in range(max(count // 10, 2))
                ]
                yield (
                    f"{part} killed (kill -9) amid a burn: {len(went)} times, "
                    f"{went.count(True)} burned to the end, dot for dot",
                    went.count(False),
                )
            burns = [four_starts(running, folder) for _ in range(max(count // 10, 3))]
            yield (
                f"four starts at once: {len(burns)} times, {max(burns)} burn at most",
                sum(one != 1 for one in burns),
            )
            status, took = locked(running, folder)
            yield (
                f"base held by another process: answered {status} after {took:.1f} s",
                int(status != 503),
            )
            took_ms = told_after(running, max(count // 4, 5))
            middle, most = np.median(took_ms), np.percentile(took_ms, 99)
            yield (
                (
                    f"a step of the head, from press to page: median {middle:.0f} ms, "
                    f"99 % within {most:.0f} ms ({len(took_ms)} steps)"
                ),
                0,
            )
