"""What happens when things break: measured on the stand-in, printed as figures.

``make faults`` kills the link process at random moments, cuts its cable, silences its
machine, hits its limit switch and takes its power, and looks at the stand-in itself:
when the beam is out, whether it ever stays on, whether the log is wrong about the rows
that are burned, and whether what is burned in the end, gone on with, equals the
uninterrupted burn. ``N=200`` chooses how often each.
"""

import json
import os
import random
import resource
import signal
import subprocess
import sys
import tempfile
import time
import warnings
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tests"))

from standins.controller import Machine, Settings
from standins.controller.server import StandIn
from standins.controller.trouble import Trouble
from support.hostile import read, sound, spoiled
from support.ports import rows
from workshop.controller import client
from workshop.controller.errors import LinkError
from workshop.controller.link import Link
from workshop.controller.program import Program, RowTable
from workshop.controller.streaming import Streaming
from workshop.controller.transcript import Transcript

_LATE_S = 5
ROWS, DOTS, OVERLAP = 24, 60, 1
CELL, SHAPE = (0.1, 0.1), (ROWS + 2, DOTS + 4)
MOTION = {"acceleration": 3000.0, "rapid": 200.0}


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
            f"{np.median(dark):6.1f} ms, at most {dark.max():7.1f}  "
            f"left on {self.left_on}  log wrong {self.wrong_log}  "
            f"map unequal {self.unequal}  unfinished {self.unfinished}"
        )


class Shop:
    """A stand-in in this process, and a link process of its own."""

    def __init__(self, folder: Path, *, blocks: int = 16, notices_cut: bool = True) -> None:
        self.folder = folder
        settings = Settings(look_ahead=blocks, **MOTION)
        self.standin = StandIn(settings, pace=1.0, patience_s=0.2, notices_cut=notices_cut)
        self.standin.__enter__()
        self.address = f"socket://127.0.0.1:{self.standin.port}"
        self.lines, self.starts = rows(ROWS, DOTS)
        self.begin_link()

    def begin_link(self) -> None:
        """Start the link process and wait until it answers."""
        environment = {**os.environ, "OLD_EMBER_VAR": str(self.folder),
                       "DJANGO_SETTINGS_MODULE": "workshop.settings.base"}  # fmt: skip
        self.link = subprocess.Popen(
            [sys.executable, "-m", "workshop.link"], env=environment, stdout=subprocess.PIPE
        )
        self.link.stdout.readline()

    def ask(self, do: str, **words: Any) -> Any:
        """Ask the link about the machine."""
        return client.ask(self.folder / "link", do, address=self.address, **words)

    def write(self, first: int) -> Path:
        """Write the program without its first rows."""
        path = self.folder / f"from-{first}.gcode"
        body = self.lines[:3] + self.lines[self.starts[first] :]
        path.write_text("\n".join(body) + "\n")
        path.with_suffix(".journal").unlink(missing_ok=True)
        begins = [3 + at - self.starts[first] for at in self.starts[first:]]
        seconds = [0.1 * at for at in range(len(begins))]
        RowTable(begins, seconds, 0.1 * len(begins)).write(path.with_suffix(".rows"))
        return path

    def start(self, name: str, first: int = 0) -> Path:
        """Burn from a row on."""
        path = self.write(first)
        self.ask("start", kind="burn", name=name, path=str(path))
        return path

    @property
    def machine(self) -> Machine:
        """The machine itself."""
        return self.standin.controller.device.machine

    def close(self) -> None:
        """End both."""
        self.link.terminate()
        self.link.wait(20)
        self.link.stdout.close()
        self.standin.__exit__()


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


def dark_after(machine: Machine, most_s: float = 5.0) -> float:
    """Return after how many ms the beam is out and stays so."""
    begun, last = time.perf_counter(), 0.0
    while time.perf_counter() - begun < most_s:
        if machine.lit:
            last = time.perf_counter() - begun
        elif time.perf_counter() - begun > last + 0.25:
            return 1000 * last
        time.sleep(0.0005)
    return 1000 * most_s


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
    breaks(shop)
    figures.dark_ms.append(dark_after(shop.machine))
    figures.left_on += shop.machine.lit
    said, true = logged(path), rows_burned(shop.machine, plan)
    figures.wrong_log += said > true
    if shop.link.poll() is not None:
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
    shop.link.wait()


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


def stop_latency(count: int) -> str:
    """Return how long a stop takes to reach the controller, beside a busy neighbour."""
    took = []
    busy = "import numpy as n\na = n.random.rand(700, 700)\nwhile True: a @ a"
    with tempfile.TemporaryDirectory() as folder:
        shop = Shop(Path(folder))
        neighbour = subprocess.Popen([sys.executable, "-c", busy])
        device, heard = shop.standin.controller.device, []
        receive = device.receive

        def noting(data: bytes) -> None:
            if b"!" in data:
                heard.append(time.perf_counter())
            receive(data)

        device.receive = noting  # type: ignore[method-assign]
        for at in range(count):
            heard.clear()
            shop.start(str(at))
            time.sleep(0.15)
            begun = time.perf_counter()
            shop.ask("stop", name=str(at))
            while not heard:
                time.sleep(0.0002)
            took.append(1000 * (heard[0] - begun))
            while shop.ask("state")["busy"]:
                time.sleep(0.01)
        neighbour.kill()
        neighbour.wait()
        shop.close()
    middle, most = np.median(took), np.percentile(took, 99)
    return (
        f"stop, from the request to the controller: median {middle:.1f} ms, "
        f"99 % within {most:.1f} ms ({count} stops, a neighbour computing)"
    )


class _Answering:
    """A port that answers each line at once."""

    def __init__(self) -> None:
        self._owed = self._asked = 0
        self._ready, end = os.pipe()
        os.write(end, b".")

    def fileno(self) -> int:
        """Return a handle that is always ready."""
        return self._ready

    def write(self, data: bytes) -> None:
        """Owe an answer for each line."""
        self._owed += data.count(b"\n")
        self._asked += data.count(b"?")

    def read(self, _: int) -> bytes:
        """Give what is owed."""
        said = b"ok\n" * self._owed
        said += b"<Idle|MPos:0,0,0|Bf:15,128|FS:0,0>\n" * self._asked
        self._owed = self._asked = 0
        return said

    def close(self) -> None:
        """Nothing to let go of."""


def throughput() -> str:
    """Return how many lines a second the link hands to a controller that never waits."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "job.gcode"
        path.write_text("G1X100.25S500\n" * 200_000)
        link = Link(_Answering(), Transcript(), lambda _: None)
        stream = Streaming("burn", "1", Program(path), RowTable())
        begun = time.perf_counter()
        while link.answered < 200_000:
            stream.feed(link)
            link.listen()
        seconds = time.perf_counter() - begun
    rate = 200_000 / seconds
    return f"lines handed over through a buffer of 128 bytes: {rate:,.0f} a second"


def hostile(count: int) -> tuple[str, int]:
    """Return what became of spoiled files, and how many were neither read nor refused."""
    warnings.simplefilter("ignore")
    files, caught, worst = sound(), [], 0.0
    each = max(count // len(files), 1)

    def late(*_: object) -> None:
        raise TimeoutError

    signal.signal(signal.SIGALRM, late)
    with tempfile.TemporaryDirectory() as folder:
        for kind, data in files.items():
            read(kind, data, Path(folder))  # what is compiled or loaded once is no hang
            for seed in range(each):
                begun = time.monotonic()
                signal.alarm(_LATE_S)
                try:
                    read(kind, spoiled(data, seed), Path(folder))
                except Exception as error:  # noqa: BLE001 (that there is none is measured)
                    caught.append(f"{kind} {seed}: {type(error).__name__} {error}")
                finally:
                    signal.alarm(0)
                worst = max(worst, time.monotonic() - begun)
    mib = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    line = (
        f"{each * len(files)} spoiled files of {len(files)} kinds: {len(caught)} neither "
        f"read nor refused, the slowest {worst:.2f} s, {mib:.0f} MiB at most"
    )
    return "\n".join([line, *caught[:20]]), len(caught)


def main() -> int:
    """Print the figures; return 1 where a beam stayed on or a log was wrong."""
    said, uncaught = hostile(int(os.environ.get("FILES", "10000")))
    print(said, flush=True)
    print(throughput(), flush=True)
    print(stop_latency(int(os.environ.get("STOPS", "100"))), flush=True)
    count = int(os.environ.get("N", "200"))
    chance, plan, bad = random.Random(7), planned(), uncaught  # noqa: S311 (no secret)
    print(f"{ROWS} rows of {DOTS} dots, 16 blocks, 128 bytes, pace 1; M4", flush=True)
    for name, (breaks, notices) in KINDS.items():
        figures = Figures()
        with tempfile.TemporaryDirectory() as folder:
            shop = Shop(Path(folder), notices_cut=notices)
            times = count if "killed" in name else max(count // 10, 3)
            for _ in range(times):
                once(shop, plan, figures, breaks, chance.uniform(0.02, 1.8))
            shop.close()
        print(figures.line(name), flush=True)
        bad += figures.left_on + figures.wrong_log + figures.unequal + figures.unfinished
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
