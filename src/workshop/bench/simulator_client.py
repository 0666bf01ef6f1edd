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


def become(
    accelerations: tuple[float, float],
    rapid: float,
    s_max: float,
    turned: tuple[float, float] = (1.0, 0.0),
    start: tuple[float, float] = (0.0, 0.0),
    junction: float = 0.01,
) -> None:
    """Make the stand-in a machine of this kind, at its origin, a fresh blank on its bed.

    ``turned`` is what its rotary makes of a mm of Y and of a degree of A,
    ``start`` where the head was driven to, ``junction`` its deviation at corners.
    """
    along, up = accelerations
    ask(
        {
            "become": {
                "acceleration": along,
                "acceleration_y": up,
                "rapid": rapid,
                "s_max": s_max,
                "y_factor": turned[0],
                "a_factor": turned[1],
                "start": start,
                "junction": junction,
            }
        }
    )


def fit_rotary(turned: tuple[float, float]) -> None:
    """Fit the stand-in with a rotary that makes this of a mm of Y and a degree of A."""
    ask({"rotary": list(turned)})


def energy_map(
    left: float,
    front: float,
    cell: tuple[float, float],
    shape: tuple[int, int],
    turn: tuple[float, float, float] = (0.0, 0.0, 0.0),
) -> NDArray[np.float32]:
    """Return beam energy by cell, in full-power seconds, row 0 at the highest y.

    ``turn``: degrees, and the x and y about which the grid lies turned.
    """
    rows, cols = shape
    where = {"left": left, "front": front, "cell": cell, "rows": rows, "cols": cols}
    _, data = ask({"map": {**where, "turn": turn}})
    return np.frombuffer(data, "<f4").reshape(rows, cols)


def photo(question: dict[str, Any]) -> bytes:
    """Return a PNG that the stand-in camera takes of what was burned on a card.

    Raises
    ------
    OSError
        When the stand-in is not there, or cannot take it.
    """
    return _picture({"photo": question})


def bed_photo(question: dict[str, Any]) -> bytes:
    """Return a PNG that the stand-in camera takes of the whole bed.

    Raises
    ------
    OSError
        When the stand-in is not there, or cannot take it.
    """
    return _picture({"bed": question})


def _picture(question: dict[str, Any]) -> bytes:
    answer, data = ask(question)
    if "error" in answer:
        raise OSError(answer["error"])
    return data
