"""Ask the stand-in controller's witness what the beam did."""

import json
import socket
from typing import Any

import numpy as np
from django.conf import settings
from numpy.typing import NDArray


def ask(question: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """Return the witness's answer and the data after it.

    Raises
    ------
    OSError
        When it is not there.
    """
    address = ("127.0.0.1", settings.WITNESS_PORT)
    with socket.create_connection(address, timeout=60) as connection:
        connection.sendall(json.dumps(question).encode() + b"\n")
        with connection.makefile("rb") as stream:
            answer = json.loads(stream.readline())
            return answer, stream.read()


def become(acceleration: float, rapid: float, s_max: float) -> None:
    """Make the stand-in a machine of this kind, at its origin, a fresh blank on its bed."""
    ask({"become": {"acceleration": acceleration, "rapid": rapid, "s_max": s_max}})


def energy_map(
    left: float, front: float, cell: tuple[float, float], rows: int, cols: int
) -> NDArray[np.float32]:
    """Return beam energy by cell, in full-power seconds, row 0 at the highest y."""
    where = {"left": left, "front": front, "cell": cell, "rows": rows, "cols": cols}
    _, data = ask({"map": where})
    return np.frombuffer(data, "<f4").reshape(rows, cols)
