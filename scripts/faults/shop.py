"""A stand-in in this process, whose beam is watched, and a link process of its own."""

import os
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any

from standins.controller import Machine, Settings
from standins.controller.server import StandIn
from support.ports import rows
from workshop.controller import client
from workshop.controller.program import RowTable

ROWS, DOTS, OVERLAP = 24, 60, 1
MOTION = {"acceleration": 3000.0, "rapid": 200.0}
_GLANCE_S = 0.0003
_STAYS_DARK_S = 0.25


class Watch(threading.Thread):
    """Looks at the beam all the time, so that no blink after a break is missed."""

    def __init__(self, standin: StandIn) -> None:
        super().__init__(daemon=True)
        self._standin = standin
        self._last = 0.0
        self._ending = False
        self.start()

    def run(self) -> None:
        """Note when the beam was seen last."""
        while not self._ending:
            if self._standin.controller.device.machine.lit:
                self._last = time.perf_counter()
            time.sleep(_GLANCE_S)

    def dark_after(self, begun: float, most_s: float = 5.0) -> float:
        """Return how many ms after a moment the beam was out and stayed so."""
        until = begun + most_s
        while time.perf_counter() < max(self._last, begun) + _STAYS_DARK_S:
            if time.perf_counter() > until:
                break
            time.sleep(0.005)
        return 1000 * max(self._last - begun, 0.0)

    def end(self) -> None:
        """Look away."""
        self._ending = True
        self.join()


class Shop:
    """A stand-in in this process, and a link process of its own."""

    def __init__(self, folder: Path, *, blocks: int = 16, notices_cut: bool = True) -> None:
        self.folder = folder
        settings = Settings(look_ahead=blocks, **MOTION)
        self.standin = StandIn(settings, pace=1.0, patience_s=0.2, notices_cut=notices_cut)
        self.standin.__enter__()
        self.watch = Watch(self.standin)
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
        self.watch.end()
        self.standin.__exit__()
