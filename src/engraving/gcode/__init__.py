"""G-code out and in."""

from engraving.gcode.reader import read_job, read_moves
from engraving.gcode.writer import write_gcode, write_moves

__all__ = ["read_job", "read_moves", "write_gcode", "write_moves"]
