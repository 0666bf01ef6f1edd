"""The programs of a workshop as one tree: started together, ended together."""

import os
import shlex
import socket
import subprocess
import sys
from collections.abc import Mapping, Sequence
from typing import Any

from honcho.manager import SYSTEM_PRINTER_NAME, Manager

Ports = Sequence[tuple[int, int]]
"""Controller and witness port of each simulated machine."""
_USUAL = ((4210, 4211), (4212, 4213))
_POSIX = os.name == "posix"
_DELAYS_MS = (0.05, 0.03)


class _Said:
    """What the programs say, without who started and stopped."""

    width = 0

    def write(self, message: Any) -> None:
        """Pass a line on."""
        if message.name != SYSTEM_PRINTER_NAME:
            sys.stdout.buffer.write(message.data)
            sys.stdout.buffer.flush()


def standin_ports(*, two: bool) -> Ports:
    """Return ports for the simulated machines: the usual ones, or any that are free."""
    return [(_free(one), _free(other)) for one, other in _USUAL[: 2 if two else 1]]


def _free(usual: int) -> int:
    """Return a port that nobody has, the usual one where that is so."""
    for port in (usual, 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    return usual


def tell_ports(ports: Ports) -> None:
    """Let the programs find the simulated machines."""
    if ports:
        (controller, witness), *more = ports
        os.environ["CONTROLLER_PORT"], os.environ["WITNESS_PORT"] = (
            str(controller),
            str(witness),
        )
        told = os.environ.get("MORE_STANDINS", "")
        pairs = [f"{one}:{other}" for one, other in more]
        # Those that somebody else runs stay known.
        os.environ["MORE_STANDINS"] = ",".join(filter(None, [*pairs, told]))


def taken(host: str, port: int) -> str:
    """Return why pages cannot be served there, empty where they can."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            return (
                f"Pages cannot be served at {host}:{port} ({error.strerror}). Another "
                f"program may be there: try --port {port % 65535 + 1}."
            )
    return ""


def programs(ports: Ports, pace: float) -> dict[str, list[str]]:
    """Return the command of each program, by its name."""
    found = {
        "web": ["workshop.serve"],
        "worker": ["workshop", "worker"],
        "link": ["workshop.link"],
    }
    for at, (controller, witness) in enumerate(ports):
        found[f"stand-in {at + 1}"] = [
            "standins.controller", "--port", str(controller), "--witness-port",
            str(witness), "--pace", f"{pace:g}", "--delay-ms", str(_DELAYS_MS[at]),
        ]  # fmt: skip
    return {name: [sys.executable, "-m", *words] for name, words in found.items()}


def run(commands: Mapping[str, Sequence[str]]) -> int:
    """Run programs until one of them ends or all are told to; return the exit status."""
    manager = Manager(_Said())
    for name, words in commands.items():
        # The shell gives way to the program, so that a signal reaches it.
        line = f"exec {shlex.join(words)}" if _POSIX else subprocess.list2cmdline(words)
        manager.add_process(name, line, env=dict(os.environ))
    manager.loop()
    return int(manager.returncode or 0)
