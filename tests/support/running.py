"""The whole workshop in processes of its own, and a browser to look at it."""

import fcntl
import json
import os
import shutil
import subprocess
import sys
import threading
import time
import urllib.request
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import sync_playwright

ROOT = Path(__file__).resolve().parents[2]
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--enable-unsafe-swiftshader", "--disable-quic", "--no-first-run", "--disable-sync",
    "--disable-background-networking", "--disable-component-update",
]  # fmt: skip
MANAGE = [sys.executable, str(ROOT / "src/workshop/manage.py")]
_READY_S = 180


def made_once(where, make):
    """The folder that `make` fills, made by the first of several test processes."""
    where.parent.mkdir(parents=True, exist_ok=True)
    with where.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not where.exists():
            half = where.with_suffix(".half")
            make(half)
            half.rename(where)
    return where


def _environment(folder, **more):
    return {
        **os.environ,
        "PYTHONPATH": str(ROOT / "src"),
        "DJANGO_SETTINGS_MODULE": "workshop.settings.base",
        "OLD_EMBER_VAR": str(folder),
        "HOST": "127.0.0.1",
        # Make gives the demo's second stand-in to all it runs; here there is none.
        "MORE_STANDINS": "",
        **more,
    }


def fill(folder, *, demo=True):
    """Make a workshop's data: its tables, and the demo."""
    for command in (
        ["migrate", "--verbosity", "0"],
        ["load_demo" if demo else "fill_shelf"],
    ):
        subprocess.run(
            [*MANAGE, *command], env=_environment(folder), check=True, capture_output=True
        )


class Running:
    """The processes of a workshop, by name; each can be killed and begun again.

    Ports are those the processes say they got.
    """

    def __init__(self, folder):
        self.folder = folder
        self.ports = {}
        self.address = ""
        self._of = {}
        self._commands = {}
        self._readers = []

    def start(self, name, command):
        """Start a process; return its first line."""
        self._commands[name] = command
        process = subprocess.Popen(
            command, env=_environment(self.folder, **self.ports), stdout=subprocess.PIPE,
            cwd=ROOT, text=True,
        )  # fmt: skip
        self._of[name] = process
        line = process.stdout.readline() if "worker" not in name else ""
        # Nobody reads on; what is said later may not fill the pipe.
        reader = threading.Thread(target=process.stdout.read, daemon=True)
        reader.start()
        self._readers.append(reader)
        return line

    def pid(self, name):
        """The number of a process."""
        return self._of[name].pid

    def kill(self, name):
        """Kill a process without a warning."""
        self._of[name].kill()
        self._of[name].wait()

    def again(self, name):
        """Start a process that was killed as it was started before."""
        self.start(name, self._commands[name])

    def end(self):
        """End all of them."""
        for process in self._of.values():
            process.terminate()
        for reader in self._readers:
            reader.join(timeout=20)
        for process in self._of.values():
            process.wait(timeout=150)  # on a busy machine a stop takes its time
            process.stdout.close()


@contextmanager
def running_workshop(
    folder, *, pace=0, two=False, blocks=2048, ports=None, workers=1, **environment
):
    """Run web server, workers, link and stand-in controller on a filled folder.

    With the ports of a stand-in that runs already, and of its witness, that one is it.
    """
    running = Running(folder)

    def standin(name):
        # On a busy machine the next line may be late; that is no end of the program.
        command = [
            sys.executable, "-m", "standins.controller", "--pace", str(pace), "--port", "0",
            "--witness-port", "0", "--patience", "2", "--blocks", str(blocks),
        ]  # fmt: skip
        return running.start(name, command).split()[1:]

    try:
        (controller, witness) = ports or standin("standin")
        second = standin("second") if two else None
        running.ports = {"CONTROLLER_PORT": controller, "WITNESS_PORT": witness}
        running.ports |= environment
        running.ports["MORE_STANDINS"] = ":".join(second or ())
        (Path(folder) / "ports.json").write_text(
            json.dumps([[controller, witness], second])
        )
        running.ports["PORT"] = "0"
        said = running.start("web", [sys.executable, "-m", "workshop.serve"])
        for at in range(workers):
            running.start(f"worker{at or ''}", [*MANAGE, "run_huey", "--quiet"])
        running.start("link", [sys.executable, "-m", "workshop.link"])
        running.address = said.removeprefix("Old Ember: ").strip().rstrip("/")
        running.ports["PORT"] = running.address.rsplit(":", 1)[1]
        wait_for_answer(running.address)
        yield running
    finally:
        running.end()


@contextmanager
def workshop(folder, **how):
    """Run a workshop as `running_workshop` does; yields its address."""
    with running_workshop(folder, **how) as running:
        yield running.address


def wait_for_answer(address):
    """Wait until a workshop answers, its kernels compiled."""
    until = time.monotonic() + _READY_S
    while time.monotonic() < until:
        try:
            with urllib.request.urlopen(f"{address}/ready/", timeout=5) as answer:
                if b"true" in answer.read():
                    return
        except OSError:
            pass
        time.sleep(0.2)
    raise TimeoutError(address)


def until(page, script, argument=None, seconds=30):
    """Wait until a script gives something true; the page's policy forbids Playwright's own way."""
    end, pause = time.monotonic() + seconds, 20.0
    while not (found := page.evaluate(script, argument)):
        if time.monotonic() > end:
            raise TimeoutError(script)
        page.wait_for_timeout(pause)
        pause = min(1.3 * pause, 200)  # asking is work too, for three processes
    return found


@contextmanager
def chromium():
    """Debian's own browser, built without windows."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium-headless-shell")
            or shutil.which("chromium"),
            args=FLAGS,
        )
        yield browser
        browser.close()
