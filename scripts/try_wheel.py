"""Build the wheel, install it into an empty environment, and use it from there.

Nothing of the checkout is in reach of what is tried: it runs in a folder of its own.
"""

import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from PIL import Image

ROOT = Path(__file__).resolve().parents[1]
_STARTS_S, _ENDS_S = 120.0, 30.0


def main() -> None:
    """Try it; an assertion says what is wrong."""
    with tempfile.TemporaryDirectory(prefix="ember-wheel-") as name:
        folder = Path(name)
        bin_of = installed(built(folder), folder / "env")
        engraved(bin_of / "engrave", folder)
        served(bin_of / "old-ember", folder / "data", folder)
    print("The wheel installs, engraves, serves its first page, and ends.")


def run(*words: str | Path, **options: object) -> str:
    """Run a command to its end; return what it says."""
    said = subprocess.run(
        [str(word) for word in words],
        check=True,
        text=True,
        stdout=subprocess.PIPE,
        **options,
    )
    return said.stdout


def built(folder: Path) -> Path:
    """Return the wheel, made of a copy of what it is made of."""
    source = folder / "source"
    made_here = shutil.ignore_patterns("__pycache__", "*.egg-info")
    for name in ("src", "requirements"):
        shutil.copytree(ROOT / name, source / name, ignore=made_here)
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, source / name)
    run(sys.executable, "-m", "build", "--wheel", "--no-isolation", "-o", folder, source)
    return next(folder.glob("*.whl"))


def installed(wheel: Path, env: Path) -> Path:
    """Install it with the pinned packages; return where its commands lie."""
    run(sys.executable, "-m", "venv", env)
    pip = [env / "bin/python", "-m", "pip", "--disable-pip-version-check", "install", "-q"]
    run(*pip, "--require-hashes", "-r", ROOT / "requirements/base.lock")
    run(*pip, "--no-deps", wheel)
    run(env / "bin/python", "-m", "pip", "check")
    return env / "bin"


def engraved(command: Path, folder: Path) -> None:
    """Let the core write the dots of a picture."""
    Image.linear_gradient("L").save(folder / "ramp.png")
    run(command, "dots", "ramp.png", "dots.png", "--width", "20mm", cwd=folder)
    with Image.open(folder / "dots.png") as dots:
        assert 0 < dots.convert("L").histogram()[0] < dots.width * dots.height


def served(command: Path, data: Path, folder: Path) -> None:
    """Start all of it on an empty folder, open what a first user opens, and end it."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    environment = {
        name: value
        for name, value in os.environ.items()
        if name not in ("PYTHONPATH", "DJANGO_SETTINGS_MODULE", "OLD_EMBER_VAR")
    }
    words = [command, "--data", data, "serve", "--port", str(port)]
    process = subprocess.Popen([str(word) for word in words], cwd=folder, env=environment)
    try:
        address = f"http://127.0.0.1:{port}"
        page = answer(address, process)
        assert "Which machine is it?" in page, page[:2000]
        found = re.findall(r'(?:href|src)="(/static/[^"]+)"', page)
        assert len(found) > 10
        for one in found:
            with urllib.request.urlopen(address + one, timeout=30) as file:
                assert file.read(), one
        assert (data / "workshop.sqlite3").exists()
    finally:
        process.send_signal(signal.SIGINT)
        process.wait(_ENDS_S)
    with socket.socket() as probe:
        assert probe.connect_ex(("127.0.0.1", port)), "it serves on after its end"


def answer(address: str, process: subprocess.Popen[bytes]) -> str:
    """Return the first page, once there is one."""
    until = time.monotonic() + _STARTS_S
    while time.monotonic() < until and process.poll() is None:
        try:
            with urllib.request.urlopen(address, timeout=30) as page:
                return page.read().decode()
        except OSError:
            time.sleep(0.2)
    raise AssertionError("It does not answer.")


if __name__ == "__main__":
    main()
