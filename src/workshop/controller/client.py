"""Ask the link process."""

import json
from multiprocessing import AuthenticationError
from multiprocessing.connection import Client
from pathlib import Path
from typing import Any

from workshop.controller.errors import LinkError
from workshop.controller.ownership import PROCESS, owned
from workshop.controller.server import ADDRESS_FILE

_GONE = "The machine link is not running; start the program anew."


def ask(folder: Path, do: str, **words: Any) -> Any:
    """Ask the link process for something, and return its answer.

    Parameters
    ----------
    folder : Path
        Where its address lies.
    do : str
        What; see `server`.
    **words
        With what.

    Raises
    ------
    LinkError
        When it cannot be done, or the process is not there.
    """
    try:
        told = json.loads((folder / ADDRESS_FILE).read_text())
        address, key = told["address"], bytes.fromhex(told["key"])
        address = address if isinstance(address, str) else tuple(address)
        with Client(address, authkey=key) as connection:
            connection.send_bytes(json.dumps({"do": do, **words}).encode())
            answer = json.loads(connection.recv_bytes(2**26))
    except (OSError, EOFError, ValueError, KeyError, AuthenticationError):
        raise LinkError(_GONE) from None
    if "fault" in answer:
        raise LinkError(answer["fault"], refused=bool(answer.get("refused")))
    return answer["ok"]


def lives(folder: Path) -> bool:
    """Return whether there is a link process, though it may not answer just now."""
    return folder.exists() and owned(folder, PROCESS)
