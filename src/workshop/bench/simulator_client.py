"""Ask a stand-in controller's witness what the beam did."""

import json
import socket
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import JobSpec, MachinePart
from engraving.place import job_zero, rotary_surface

_PATIENCE_S = 60
_HOLDS = {"vtool": "spindle", "drag": "point"}


@dataclass(frozen=True)
class Witness:
    """A stand-in's witness.

    Parameters
    ----------
    port : int
        Of this machine.
    """

    port: int

    def ask(self, question: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
        """Return the witness's answer and the data after it.

        Raises
        ------
        OSError
            When it is not there.
        """
        address = ("127.0.0.1", self.port)
        with socket.create_connection(address, timeout=_PATIENCE_S) as connection:
            connection.sendall(json.dumps(question).encode() + b"\n")
            with connection.makefile("rb") as stream:
                answer = json.loads(stream.readline())
                return answer, stream.read()

    def become(self, spec: JobSpec) -> None:
        """Make the stand-in a job's machine: at rest, a fresh blank on its bed."""
        machine = spec.machine
        along, up = machine.accelerations
        turned = rotary_surface(spec)
        self.ask(
            {
                "become": {
                    "acceleration": along,
                    "acceleration_y": up,
                    "rapid": machine.rapid_mm_s,
                    "s_max": machine.s_max,
                    "y_factor": turned[0],
                    "a_factor": turned[1],
                    "start": job_zero(spec),
                    "junction": machine.junction_mm,
                    "look_ahead": machine.look_ahead,
                    "travel": [machine.bed_width_mm, machine.bed_height_mm],
                    "rapid_z": machine.max_speed_z_mm_s,
                    "acceleration_z": machine.acceleration_z_mm_s2,
                    "tool": _HOLDS.get(machine.kind, "beam"),
                }
            }
        )

    def hold_tool(self, machine: MachinePart) -> None:
        """Let the stand-in hold a machine's tool, where it does not yet."""
        answer, _ = self.ask({})
        if answer.get("tool") != _HOLDS.get(machine.kind, "beam"):
            self.become(JobSpec(machine=machine))

    def take_up(self, tool: str) -> None:
        """Let the stand-in hold another tool, as its operator would change it."""
        self.ask({"take_up": tool})

    def depths(self, where: Mapping[str, Any], **words: Any) -> NDArray[np.float32]:
        """Return how deep the piece is carved by cell, in mm; row 0 at the highest y.

        Parameters
        ----------
        where : mapping
            ``left``, ``front``, ``cell``, ``rows``, ``cols`` and ``turn``, as of a map.
        **words
            What somebody knows of the tool or the material.
        """
        _, data = self.ask({"depths": {**where, **words}})
        return np.frombuffer(data, "<f4").reshape(where["rows"], where["cols"])

    def fit_rotary(self, spec: JobSpec) -> None:
        """Fit the rotary a job wants, or none."""
        self.ask({"rotary": list(rotary_surface(spec))})

    def energy_map(
        self,
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
        _, data = self.ask({"map": {**where, "turn": turn}})
        return np.frombuffer(data, "<f4").reshape(rows, cols)

    def picture(self, kind: str, question: dict[str, Any]) -> bytes:
        """Return a PNG the stand-in camera takes: ``photo`` of a card, ``bed`` of it all.

        Raises
        ------
        OSError
            When the stand-in is not there, or cannot take it.
        """
        answer, data = self.ask({kind: question})
        if "error" in answer:
            raise OSError(answer["error"])
        return data
