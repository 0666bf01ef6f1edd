"""G-code out and in."""

from engraving.gcode.parts import MOST_PARTS, Part, write_parts
from engraving.gcode.reader import read_job, read_moves
from engraving.gcode.tool_lines import asked_name
from engraving.gcode.writer import write_gcode, write_moves

__all__ = [
    "MOST_PARTS",
    "Part",
    "asked_name",
    "read_job",
    "read_moves",
    "write_gcode",
    "write_moves",
    "write_parts",
]
