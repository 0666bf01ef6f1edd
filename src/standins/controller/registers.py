"""The numbered settings a controller keeps, as ``$$`` lists and ``$n=v`` changes them.

Numbers and units of the open line protocol of small motion controllers (from memory):
speeds in mm/min, accelerations in mm/s².
"""

from collections.abc import Callable
from dataclasses import replace

from standins.controller.interpreter import FaultError
from standins.controller.machine import Settings

_MOST = 1e7


def _axis(pair: tuple[float, float], at: int, value: float) -> tuple[float, float]:
    return (value, pair[1]) if at == 0 else (pair[0], value)


_READ: dict[int, Callable[[Settings], float]] = {
    11: lambda data: data.junction,
    30: lambda data: data.s_max,
    32: lambda data: float(data.laser),
    110: lambda data: data.rapid * 60,
    111: lambda data: data.rapid * 60,
    120: lambda data: data.accelerations[0],
    121: lambda data: data.accelerations[1],
    112: lambda data: data.rapid_z * 60,
    122: lambda data: data.acceleration_z,
    130: lambda data: data.travel[0],
    131: lambda data: data.travel[1],
}
_WRITTEN: dict[int, Callable[[Settings, float], Settings]] = {
    11: lambda data, v: replace(data, junction=v),
    30: lambda data, v: replace(data, s_max=v),
    32: lambda data, v: replace(data, laser=v != 0),
    110: lambda data, v: replace(data, rapid=v / 60),
    111: lambda data, v: replace(data, rapid=v / 60),
    120: lambda data, v: replace(
        data, acceleration=v, acceleration_y=data.accelerations[1]
    ),
    121: lambda data, v: replace(data, acceleration_y=v),
    112: lambda data, v: replace(data, rapid_z=v / 60),
    122: lambda data, v: replace(data, acceleration_z=v),
    130: lambda data, v: replace(data, travel=_axis(data.travel, 0, v)),
    131: lambda data, v: replace(data, travel=_axis(data.travel, 1, v)),
}
_OWN = {
    0: 10.0, 1: 25.0, 2: 0.0, 3: 0.0, 4: 0.0, 5: 0.0, 6: 0.0, 10: 1.0, 12: 0.002, 13: 0.0,
    20: 0.0, 21: 0.0, 22: 1.0, 23: 0.0, 24: 100.0, 25: 3000.0, 26: 250.0, 27: 1.0, 31: 0.0,
    100: 160.0, 101: 160.0, 102: 400.0, 132: 60.0,
}  # fmt: skip


class Registers:
    """What ``$$`` lists: some numbers are the machine's, the others are only kept."""

    def __init__(self) -> None:
        self._kept = dict(_OWN)

    def value(self, number: int, machine: Settings) -> float:
        """Return one setting.

        Raises
        ------
        FaultError
            Where there is none of that number.
        """
        if number in _READ:
            return _READ[number](machine)
        if number not in self._kept:
            raise FaultError(3)
        return self._kept[number]

    def listed(self, machine: Settings) -> list[str]:
        """Return all settings as lines ``$n=v``."""
        numbers = sorted({*self._kept, *_READ})
        return [f"${number}={self.value(number, machine):.3f}" for number in numbers]

    def change(self, number: int, value: float, machine: Settings) -> Settings:
        """Keep a setting; return the machine as it is then.

        Raises
        ------
        FaultError
            For an unknown number, or a value that cannot be.
        """
        if not -_MOST < value < _MOST:
            raise FaultError(2)
        if value < 0 or (value == 0 and number in (30, 110, 111, 112, 120, 121, 122)):
            raise FaultError(4)
        if number in _WRITTEN:
            return _WRITTEN[number](machine, value)
        if number not in self._kept:
            raise FaultError(3)
        self._kept[number] = value
        return machine
