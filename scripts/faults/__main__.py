"""What happens when things break: measured on the stand-in, printed as figures.

``make faults`` reads spoiled files, kills link, worker and web server at random moments,
cuts the cable, silences the machine, hits its limit switch and takes its power, and looks
at the stand-in itself: when the beam is out, whether it ever stays on, whether the log is
wrong about the rows that are burned, and whether what is burned in the end, gone on with,
equals the uninterrupted burn. ``N=200`` chooses how often each, ``FILES``, ``STOPS`` and
``DOTS`` how many of the others.
"""

import os
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "tests"))

import beam
import files
import program
import speed


def _number(name: str, usual: int) -> int:
    return int(os.environ.get(name, str(usual)))


def main() -> int:
    """Print the figures; return 1 where a beam stayed on or a log was wrong."""
    count = _number("N", 200)
    said, bad = files.hostile(_number("FILES", 10_000))
    print(said, flush=True)
    line, whole = speed.long_job(_number("DOTS", 2_400_000))
    print(line, flush=True)
    print(speed.stop_latency(_number("STOPS", 100)), flush=True)
    bad += not whole
    for measure in (beam.broken, program.broken):
        for line, wrong in measure(count):
            print(line, flush=True)
            bad += wrong
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
