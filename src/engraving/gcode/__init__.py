"""G-code out and in."""

from engraving.gcode.reader import read_job, read_moves
from engraving.gcode.writer import write_gcode

__all__ = ["read_job", "read_moves", "write_gcode"]
