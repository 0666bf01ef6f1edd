"""The witness port: what the beam did, for whoever wants to see it.

One line of JSON is answered by one line of JSON, for a map followed by raw float32
values. ``{"become": {"acceleration": …, "rapid": …, "s_max": …}}`` makes the stand-in
another machine, at rest, a fresh blank on its bed; what its owner has to find out stays,
and where a tool was touched off. ``{"depths": {…}}`` is answered with how deep it is
carved; see `removal`.
``{"take_up": name}`` puts another tool into its spindle, as long as that happens to be.
``{"rotary": [mm of Y, mm of A]}`` fits a rotary and leaves the piece where it is.
``{"photo": {…}}`` and ``{"bed": {…}}`` are answered with a PNG that the stand-in camera
took, of a card and of the whole bed; see `pictures`. ``{"trouble": {…}}`` lets something
go wrong; see `trouble`. ``{"pace": …}`` lets its clock run so much faster from now on.
"""

import contextlib
import json
import socketserver
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from standins.controller.pictures import bed_picture, card_picture
from standins.controller.removal import depth_map
from standins.controller.trouble import Trouble

if TYPE_CHECKING:
    from standins.controller.server import Controller

_LARGEST_MAP = 64_000_000
_LONGEST_QUESTION = 65536
_SURFACE = (-12.4, 0.0006, -0.0004)
"""Where the blank's surface lies below a tool, and by how much it rises along x and y.

Nobody is told: touch it off, and probe the bed.
"""
_Answer = tuple[dict[str, Any], bytes]


class WitnessHandler(socketserver.StreamRequestHandler):
    """One question to the witness."""

    def handle(self) -> None:
        """Answer one question."""
        controller: Controller = self.server.controller  # type: ignore[attr-defined]
        with contextlib.suppress(ConnectionError):
            try:
                question = json.loads(self.rfile.readline(_LONGEST_QUESTION))
                answer, data = _answer(controller, question)
            except (ValueError, KeyError, TypeError, AttributeError):
                answer, data = {"error": "this question is not understood"}, b""
            self.wfile.write(json.dumps(answer).encode() + b"\n" + data)


def _answer(controller: "Controller", question: dict[str, Any]) -> _Answer:
    for name, answer in _ANSWERS.items():
        if name in question:
            return answer(controller, question[name])
    with controller.lock:
        device = controller.device
        machine = device.machine
        return {
            "clock_s": machine.clock_s,
            "beam_s": machine.beam_s,
            "lit": machine.lit,
            "standing_s": machine.standing_s,
            "state": device.state(),
            "lost": device.lost,
            "place": machine.position_mm,
            "tool": machine.settings.tool,
        }, b""


def _fit_rotary(controller: "Controller", wanted: Any) -> _Answer:
    y_factor, a_factor = (float(value) for value in wanted)
    with controller.lock:
        controller.device.machine.fit_rotary(y_factor, a_factor)
    return {"rotary": [y_factor, a_factor]}, b""


def _run_at(controller: "Controller", wanted: Any) -> _Answer:
    with controller.lock:
        controller.pace = controller.device.pace = min(max(float(wanted), 0.1), 1000.0)
    return {"pace": controller.pace}, b""


def _let_go_wrong(controller: "Controller", wanted: dict[str, Any]) -> _Answer:
    controller.trouble_with(Trouble.wanted(wanted))
    return {"trouble": wanted}, b""


def _photograph(controller: "Controller", wanted: dict[str, Any]) -> _Answer:
    picture = card_picture(controller.device.machine, wanted)
    return {"type": "image/png", "bytes": len(picture)}, picture


def _photograph_bed(controller: "Controller", wanted: dict[str, Any]) -> _Answer:
    picture = bed_picture(controller.device.machine, wanted)
    return {"type": "image/png", "bytes": len(picture)}, picture


def _become(controller: "Controller", wanted: dict[str, Any]) -> _Answer:
    before = controller.device.machine.settings
    settings = replace(
        before,
        look_ahead=int(wanted.get("look_ahead", 0)) or before.look_ahead,
        acceleration=float(wanted["acceleration"]),
        acceleration_y=float(wanted.get("acceleration_y", 0)),
        rapid=float(wanted["rapid"]),
        s_max=float(wanted["s_max"]),
        y_factor=float(wanted.get("y_factor", 1)),
        a_factor=float(wanted.get("a_factor", 0)),
        junction=float(wanted.get("junction", 0.01)),
        rapid_z=float(wanted.get("rapid_z", before.rapid_z)),
        acceleration_z=float(wanted.get("acceleration_z", before.acceleration_z)),
        tool=(tool := str(wanted.get("tool", "beam"))),
        surface=_SURFACE if tool != "beam" else (0.0, 0.0, 0.0),
        start=_pair(wanted.get("start", (0, 0))),
        travel=_pair(wanted.get("travel", (0, 0))),
    )
    with controller.lock:
        controller.device.become(settings)
    return {"became": wanted}, b""


def _map(controller: "Controller", wanted: dict[str, Any]) -> _Answer:
    rows, cols = int(wanted["rows"]), int(wanted["cols"])
    wide, high = (float(side) for side in wanted["cell"])
    degrees, x, y = (float(value) for value in wanted.get("turn", (0, 0, 0)))
    if not 0 < rows * cols <= _LARGEST_MAP:
        raise ValueError
    with controller.lock:
        energy = controller.device.machine.map(
            float(wanted["left"]),
            float(wanted["front"]),
            (wide, high),
            (rows, cols),
            (degrees, x, y),
        )
    return {"rows": rows, "cols": cols, "type": "<f4"}, energy.tobytes()


def _depths(controller: "Controller", wanted: dict[str, Any]) -> _Answer:
    with controller.lock:
        found = depth_map(controller.device.machine, wanted)
    return {"rows": found.shape[0], "cols": found.shape[1], "type": "<f4"}, found.tobytes()


def _pair(place: Any) -> tuple[float, float]:
    x, y = place
    return float(x), float(y)


def _take_up(controller: "Controller", wanted: Any) -> _Answer:
    with controller.lock:
        controller.device.machine.take_up(str(wanted))
    return {"tool_taken_up": wanted}, b""


_ANSWERS: dict[str, Callable[["Controller", Any], _Answer]] = {
    "become": _become,
    "rotary": _fit_rotary,
    "pace": _run_at,
    "take_up": _take_up,
    "trouble": _let_go_wrong,
    "photo": _photograph,
    "bed": _photograph_bed,
    "depths": _depths,
    "map": _map,
}
