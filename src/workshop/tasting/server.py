"""A process that reads files for others: each in a child with limits of time and memory.

A line of JSON comes in with ``kind`` and ``path``, and ``seconds`` and ``bytes`` it may
take; a line goes out with the ``fault``, empty where the file was read.
"""

import json
import os
import resource
import select
import signal
import sys
from pathlib import Path

from PIL import Image

from engraving.errors import EngravingError
from workshop.tasting.kinds import READERS

_DONE, _TOO_LARGE, _REFUSED = 0, 3, 4
_LONGEST = 2000
_SAYS = {
    "slow": "The file takes too long to read; save it anew, or a smaller one.",
    "large": "The file takes too much memory to read; save a smaller one.",
    "broken": "The file is damaged, so that reading it broke off; save it anew.",
}


def main() -> None:
    """Taste what is asked for until nobody asks any more."""
    Image.init()  # once here, and not in every child
    for line in sys.stdin:
        asked = json.loads(line)
        fault = tasted(asked)
        sys.stdout.write(json.dumps({"fault": _SAYS.get(fault, fault)}) + "\n")
        sys.stdout.flush()


def tasted(asked: dict[str, str | float]) -> str:
    """Read a file in a child; return what went wrong, in a word or a sentence."""
    said, says = os.pipe()
    child = os.fork()
    if not child:
        _read(asked, says)
    os.close(says)
    with open(said, "rb") as words:  # noqa: PTH123 (a handle, no path)
        how = _ended(child, float(asked["seconds"]))
        return words.read().decode() if how == "refused" else how


def _read(asked: dict[str, str | float], says: int) -> None:
    """Read, and end this process by how it went."""
    code = 1
    try:
        _limit(int(asked["bytes"]))
        READERS[str(asked["kind"])](Path(str(asked["path"])))
        code = _DONE
    except EngravingError as error:
        os.write(says, error.message.encode()[:_LONGEST])
        code = _REFUSED
    except MemoryError:
        code = _TOO_LARGE
    except BaseException:  # noqa: BLE001 (whatever it is, it may not go on from here)
        code = 1
    finally:
        os._exit(code)


def _limit(more: int) -> None:
    """Let this process have so many bytes more than it has now."""
    size = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (size + more, size + more))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _ended(child: int, seconds: float) -> str:
    """Wait for a child; return how it went."""
    handle = os.pidfd_open(child)
    try:
        if not select.select([handle], [], [], seconds)[0]:
            os.kill(child, signal.SIGKILL)
            os.waitpid(child, 0)
            return "slow"
    finally:
        os.close(handle)
    code = os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])
    known = {_DONE: "", _TOO_LARGE: "large", _REFUSED: "refused"}
    return known.get(code, "broken")


if __name__ == "__main__":
    main()
