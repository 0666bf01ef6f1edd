"""Run the stand-in controller: ``python -m standins.controller --pace 60``."""

import argparse
import signal
import time

from standins.camera import Surface, marks_of
from standins.controller.machine import Machine, Settings
from standins.controller.server import PATIENCE_S, StandIn

_HEARS_S = 0.2


def _warm(settings: Settings) -> None:
    """Compile what moves and draws, so that the first burn does not wait for it."""
    machine = Machine(settings)
    for line in ("M3 S1000", "G1 X1 F600", "G1 Y1", "G1 X2 Y2", "M2"):
        machine.take(line)
    machine.run()
    machine.map(0, 0, (0.5, 0.5), (4, 4))
    marks_of(machine.strokes(), Surface(), 0, 0, (2, 2), 0.1)


def main() -> None:
    """Serve until told to end."""
    parser = argparse.ArgumentParser(prog="standins.controller", description=__doc__)
    parser.add_argument("--port", type=int, default=4210, help="0: any that is free")
    parser.add_argument("--witness-port", type=int, default=4211)
    parser.add_argument("--pace", type=float, default=1.0, help="0: as fast as it can")
    parser.add_argument(
        "--patience", type=float, default=PATIENCE_S, help="s to wait for the next line"
    )
    parser.add_argument("--blocks", type=int, default=2048, help="planned ahead")
    parser.add_argument("--accel", type=float, default=3000.0, help="mm/s²")
    parser.add_argument("--rapid", type=float, default=300.0, help="mm/s")
    parser.add_argument("--s-max", type=float, default=1000.0)
    parser.add_argument("--delay-ms", type=float, default=0.0, help="the beam's")
    parser.add_argument("--slack-mm", type=float, default=0.0, help="the drive's")
    options = parser.parse_args()
    settings = Settings(
        options.accel,
        options.rapid,
        options.s_max,
        look_ahead=options.blocks,
        delay_ms=options.delay_ms,
        slack_mm=options.slack_mm,
    )
    _warm(settings)
    told: list[int] = []
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda number, _: told.append(number))
    ports = options.port, options.witness_port
    with StandIn(settings, options.pace, *ports, options.patience) as standing:
        print(f"ports {standing.port} {standing.witness_port}", flush=True)  # noqa: T201
        # A signal may reach another thread, which does not wake this one.
        while not told:
            time.sleep(_HEARS_S)


if __name__ == "__main__":
    main()
