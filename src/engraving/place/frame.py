"""The machine's own coordinates: its origin corner and axis directions."""

from dataclasses import dataclass

from engraving.jobspec import MachinePart


@dataclass(frozen=True)
class Frame:
    """Turns bed coordinates into the machine's.

    ``machine_x = offset_x + sign_x · bed_x``, likewise y; mm.
    """

    offset_x: float
    sign_x: int
    offset_y: float
    sign_y: int

    def to_machine(self, x_mm: float, y_mm: float) -> tuple[float, float]:
        """Return the machine's coordinates of a point of the bed."""
        return (
            self.offset_x + self.sign_x * x_mm,
            self.offset_y + self.sign_y * y_mm,
        )

    def to_bed(self, x_mm: float, y_mm: float) -> tuple[float, float]:
        """Return the point of the bed at machine coordinates."""
        return (
            (x_mm - self.offset_x) * self.sign_x,
            (y_mm - self.offset_y) * self.sign_y,
        )


def frame_of(machine: MachinePart) -> Frame:
    """Return the frame of a machine: axes grow away from its origin corner, or as told."""
    row, column = machine.origin.split("-")
    right, back = column == "right", row == "back"
    leftward = right if machine.x_runs == "auto" else machine.x_runs == "left"
    frontward = back if machine.y_runs == "auto" else machine.y_runs == "front"
    sign_x, sign_y = -1 if leftward else 1, -1 if frontward else 1
    return Frame(
        -sign_x * machine.bed_width_mm if right else 0.0,
        sign_x,
        -sign_y * machine.bed_height_mm if back else 0.0,
        sign_y,
    )
