"""Ports without a wire: a device behind them that has its oddities."""

import re
import threading
import time

import numpy as np

from standins.controller import Machine, Settings
from standins.controller.device import Device


class OddPort:
    """A port to a device; bytes pass through `tell` on their way to the program.

    Its clock runs while it is read: `step_s` at a time.
    """

    step_s = 0.05

    def __init__(self, settings=None, tell=lambda text: text + "\n", greets=True):
        self.tell = tell
        self.out = b""
        self.written = b""
        self.closed = False
        self.lock = threading.Lock()
        self.device = Device(settings or Settings(look_ahead=16), self._said)
        if greets:
            self._said("Stand-in 1.1 ['$' for help]")

    def _said(self, text):
        self.out += self.tell(text).encode("latin-1")

    def write(self, data):
        with self.lock:
            self.written += data
            self.device.receive(data)

    def read(self, size):
        with self.lock:
            self.device.advance(self.step_s, patience_s=0.0)
            data, self.out = self.out[:size], self.out[size:]
            return data

    def happens(self, what, *words):
        """Let something happen to the device between two bytes."""
        with self.lock:
            getattr(self.device, what)(*words)

    def close(self):
        self.closed = True

    @property
    def after_fault(self):
        """What was written after the last line that is no single byte."""
        return re.split(rb"\n", self.written)[-1]


def rows(count=12, dots=40, *, beam="M4"):
    """A small raster program, and where its rows begin."""
    lines, starts = ["G21", "G90", f"{beam} S0"], []
    for row in range(count):
        starts.append(len(lines))
        lines.append(f"G0X0Y{row / 10:g}S0")
        lines += [
            f"G1X{(dot + 1) / 10:g}S{500 * (dot % 2)}" + "F6000" * (dot == 0)
            for dot in range(dots)
        ]
    lines += ["S0", "M5", "M2"]
    return lines, starts


def played(lines):
    """What a machine burns that gets all lines: energy by tenth of a millimetre."""
    machine = Machine(Settings(look_ahead=16))
    for line in lines:
        machine.take(line)
    machine.run()
    return burned(machine)


def burned(machine):
    return np.asarray(machine.map(-0.05, -0.05, (0.1, 0.1), (14, 44)))


def until(condition, seconds=30):
    """Wait until something holds."""
    end = time.monotonic() + seconds
    while not condition():
        if time.monotonic() > end:
            raise TimeoutError
        time.sleep(0.005)
