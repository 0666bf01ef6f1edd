"""Spoiled files through the real readers, with limits of time and memory."""

import logging
import resource
import signal
import tempfile
import time
import warnings
from pathlib import Path

from support.hostile import read, sound, spoiled

_LATE_S = 5


def hostile(count: int) -> tuple[str, int]:
    """Return what became of spoiled files, and how many were neither read nor refused."""
    warnings.simplefilter("ignore")
    logging.disable()  # readers say much of what is wrong with a file
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
