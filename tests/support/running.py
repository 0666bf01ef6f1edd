"""The whole workshop in processes of its own, and a browser to look at it."""

import os
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import sync_playwright

ROOT = Path(__file__).resolve().parents[2]
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync",
    "--disable-background-networking", "--disable-component-update",
]  # fmt: skip
_READY_S = 180


def free_ports(count):
    """Ports nobody listens on."""
    sockets = [socket.socket() for _ in range(count)]
    for held in sockets:
        held.bind(("127.0.0.1", 0))
    ports = [held.getsockname()[1] for held in sockets]
    for held in sockets:
        held.close()
    return ports


@contextmanager
def workshop(folder, *, demo=True, pace=0):
    """Run web server, worker and stand-in controller; yields the address."""
    port, controller, witness = free_ports(3)
    environment = {
        **os.environ,
        "PYTHONPATH": str(ROOT / "src"),
        "DJANGO_SETTINGS_MODULE": "workshop.settings.base",
        "OLD_EMBER_VAR": str(folder),
        "HOST": "127.0.0.1",
        "PORT": str(port),
        "CONTROLLER_PORT": str(controller),
        "WITNESS_PORT": str(witness),
    }
    manage = [sys.executable, str(ROOT / "src/workshop/manage.py")]

    def run(*arguments):
        subprocess.run(
            [*manage, *arguments], env=environment, check=True, capture_output=True
        )

    run("migrate", "--verbosity", "0")
    if demo:
        run("load_demo")
    ports = ["--port", str(controller), "--witness-port", str(witness), "--pace", str(pace)]
    commands = [
        [sys.executable, "-m", "workshop.serve"],
        [*manage, "run_huey", "--quiet"],
        [sys.executable, "-m", "standins.controller", *ports],
    ]
    running = [
        subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL, cwd=ROOT)
        for command in commands
    ]
    address = f"http://127.0.0.1:{port}"
    try:
        _wait(address)
        yield address
    finally:
        for process in running:
            process.terminate()
        for process in running:
            process.wait(timeout=20)


def _wait(address):
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
    end = time.monotonic() + seconds
    while not (found := page.evaluate(script, argument)):
        if time.monotonic() > end:
            raise TimeoutError(script)
        page.wait_for_timeout(20)
    return found


@contextmanager
def chromium():
    """A headless browser, Debian's own."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium"), args=FLAGS
        )
        yield browser
        browser.close()
