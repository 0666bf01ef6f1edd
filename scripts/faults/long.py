"""A job of two hours: what its page and its pictures take of memory."""

import time
from collections.abc import Iterator
from pathlib import Path

from visitor import Visitor, asked, burn

from support.running import Running, chromium, running_workshop

JOB = 404
_DOTS = {"pitch": "0.03", "ties": "size", "changed": "pitch"}
_PACE = {"speed": "72", "changed": "speed"}


def _peak_mib(pid: int) -> float:
    status = Path(f"/proc/{pid}/status").read_text()
    return next(
        int(line.split()[1]) / 1024
        for line in status.splitlines()
        if line.startswith("VmHWM")
    )


def _from_here(pid: int) -> float:
    """Let the peak begin at what a process has now; return that, in MiB."""
    Path(f"/proc/{pid}/clear_refs").write_text("5")
    return _peak_mib(pid)


def _looked_at(running: Running, machine: int, pk: int) -> float:
    """Look at the bench page while it burns; return what its script holds, in MiB."""
    with chromium() as browser:
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{running.address}/bench/machines/{machine}/")
        page.wait_for_timeout(20_000)
        Visitor(running.address).get(f"/bench/runs/{pk}/row/?row=700")
        return float(page.evaluate("performance.memory.usedJSHeapSize")) / 2**20


def kept_small(folder: Path) -> Iterator[str]:
    """Yield what a job of two hours takes, as lines."""
    with running_workshop(folder, pace=1) as running:
        visitor = Visitor(running.address)
        visitor.get(f"/jobs/{JOB}/blank/")
        visitor.post(f"/jobs/{JOB}/blank/", **_DOTS)
        visitor.post(f"/jobs/{JOB}/burn/", **_PACE)
        parts = {part: running.pid(part) for part in ("web", "worker", "link")}
        began = {part: _from_here(pid) for part, pid in parts.items()}
        pk = burn(visitor, folder, JOB)
        written = {part: _peak_mib(pid) for part, pid in parts.items()}
        before = {part: _from_here(pid) for part, pid in parts.items()}
        [machine] = asked(folder, f"select machine_id from jobs_job where number = {JOB}")  # noqa: S608
        script = _looked_at(running, machine, pk)
        grown = {part: _peak_mib(pid) for part, pid in parts.items()}
        what = f"select planned_s, rows from bench_run where id = {pk}"  # noqa: S608
        seconds, rows = asked(folder, what)
        visitor.post(f"/bench/runs/{pk}/stop/")
        time.sleep(2)
    yield (
        f"a burn of {seconds / 3600:.1f} h and {rows} rows of 0.03 mm, in MiB: written, "
        + ", ".join(f"{part} {began[part]:.0f} to {written[part]:.0f}" for part in parts)
    )
    yield (
        "its bench page looked at: "
        + ", ".join(f"{part} {before[part]:.0f} to {grown[part]:.0f}" for part in parts)
        + f", the page's script {script:.0f}"
    )
