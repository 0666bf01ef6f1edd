"""Run the stand-in controller: ``python -m standins.controller --pace 60``."""

import argparse
import signal
import threading

from standins.controller.machine import Settings
from standins.controller.server import StandIn


def main() -> None:
    """Serve until told to end."""
    parser = argparse.ArgumentParser(prog="standins.controller", description=__doc__)
    parser.add_argument("--port", type=int, default=4210)
    parser.add_argument("--witness-port", type=int, default=4211)
    parser.add_argument("--pace", type=float, default=1.0, help="0: as fast as it can")
    parser.add_argument("--accel", type=float, default=3000.0, help="mm/s²")
    parser.add_argument("--rapid", type=float, default=300.0, help="mm/s")
    parser.add_argument("--s-max", type=float, default=1000.0)
    options = parser.parse_args()
    settings = Settings(options.accel, options.rapid, options.s_max)
    ending = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: ending.set())
    with StandIn(settings, options.pace, options.port, options.witness_port):
        ending.wait()


if __name__ == "__main__":
    main()
