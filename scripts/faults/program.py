"""The whole program: its parts killed amid a burn, and four who start one at once."""

import random
import sqlite3
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import long
import reports
import store
from visitor import JOB, Visitor, asked, burn, ended, pass_the_gate

from support.running import Running, fill, running_workshop, wait_for_answer

PACE = 20


def killed(running: Running, folder: Path, part: str, wait_s: float) -> bool:
    """Kill a part amid a burn and begin it again; return whether all went well."""
    pk = burn(Visitor(running.address), folder)
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
    pass_the_gate(visitor, JOB)
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
        for line in reports.told(folder, max(count // 4, 5)):
            yield line, 0
        for line in long.kept_small(folder):
            yield line, 0
    for measure in (store.full, store.broken_upload):
        yield measure()
