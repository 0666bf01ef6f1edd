"""The programs of a workshop, as processes: they start, they end."""

import ctypes
import os
import signal
import subprocess
import sys
from pathlib import Path

import pytest

STARTS = {
    "link": ["workshop.link"],
    "stand-in": ["standins.controller", "--port", "0", "--witness-port", "0"],
}


@pytest.mark.parametrize("name", STARTS)
def test_an_end_is_heard_whichever_thread_it_reaches(name, tmp_path):
    """The system may hand a signal to any thread; only the main one acts on it."""
    env = os.environ | {
        "OLD_EMBER_VAR": str(tmp_path),
        "PYTHONPATH": "src",
        "DJANGO_SETTINGS_MODULE": "workshop.settings.base",
    }
    process = subprocess.Popen(
        [sys.executable, "-m", *STARTS[name]], env=env, stdout=subprocess.PIPE, text=True
    )
    with process:
        assert process.stdout.readline()
        threads = [int(one.name) for one in Path(f"/proc/{process.pid}/task").iterdir()]
        other = next(one for one in threads if one != process.pid)
        try:
            assert not ctypes.CDLL(None).tgkill(process.pid, other, signal.SIGTERM)
            assert process.wait(30) == 0
        finally:
            process.kill()
