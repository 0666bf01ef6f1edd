"""The guard of an open port: puts the beam out when its owner dies.

A process of its own that holds the port beside the link process and waits. When the
link process goes without a word (killed, crashed, out of memory), the guard sends a
hold at once, waits for rest, and resets, so that nothing in the controller's plan burns
on and the position stays true. POSIX only; elsewhere there is none.

Run as ``python -S guard.py <port's handle> <pipe's handle>``: it imports nothing of ours.
"""

import os
import select
import signal
import sys
import time

_HOLD, _ASK, _RESET = b"!", b"?", b"\x18"
_WAITS_S = 3.0
_AGAIN_S = 0.02
_AT_REST = (b"Hold:0", b"hold:0", b"Idle", b"idle", b"Alarm", b"alarm", b"Door:0")


def main(port: int, pipe: int) -> None:
    """Wait for the owner's end: a byte is a good-bye, no byte is a death."""
    # All programs are told to end together; this one outlasts its owner.
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, signal.SIG_IGN)
    if os.read(pipe, 1):
        return
    os.write(port, _HOLD)
    until, said = time.monotonic() + _WAITS_S, b""
    while time.monotonic() < until and not any(word in said for word in _AT_REST):
        os.write(port, _ASK)
        if select.select([port], [], [], _AGAIN_S)[0]:
            said = said[-200:] + os.read(port, 4096)
    os.write(port, _RESET)


if __name__ == "__main__":
    try:
        main(int(sys.argv[1]), int(sys.argv[2]))
    except OSError:
        sys.exit(1)
