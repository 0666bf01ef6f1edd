"""A bed camera: from marks at known places to where each of its pixels lies on the bed.

A pixel is first moved as the lens bent it, by the radial polynomial
``1 + k1·r² + k2·r⁴ + k3·r⁶`` about the picture's middle (r is 1 in its
corners; Brown 1971, Photogrammetric Engineering 37:855-866, from memory), then
mapped onto the bed by a homography.
"""

from dataclasses import asdict, dataclass
from typing import Any, Self

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from engraving.camera.codes import find_marks
from engraving.camera.marks import bed_marks
from engraving.errors import ArtworkError
from engraving.geometry.homography import mapped
from engraving.jobspec import MachinePart

_LEAST_MARKS = 6
_LOOK_PX = 2400
_STEPS = 15

Points = NDArray[np.float64]


@dataclass(frozen=True)
class BedCamera:
    """A calibrated camera above a bed.

    Attributes
    ----------
    width, height : int
        Pixels of its pictures.
    matrix : tuple of float
        Homography from unbent pixels (in half diagonals) to mm, row by row.
    bend : tuple of float
        k1, k2 and k3.
    residual_mm, worst_mm : float
        Root mean square and largest of how far the marks' corners lie off.
    marks : int
        How many were found.
    """

    width: int
    height: int
    matrix: tuple[float, ...]
    bend: tuple[float, float, float]
    residual_mm: float
    worst_mm: float
    marks: int

    def to_dict(self) -> dict[str, Any]:
        """Return plain data."""
        return asdict(self)

    @classmethod
    def from_dict(cls, data: dict[str, Any]) -> Self:
        """Read plain data."""
        plain = {**data, "matrix": tuple(data["matrix"]), "bend": tuple(data["bend"])}
        return cls(**plain)

    def to_bed(self, pixels: Points) -> Points:
        """Return where pixels, shape (n, 2), lie on the bed in mm."""
        unbent = _unbent(_centred(pixels, self.width, self.height), self.bend)
        return mapped(np.array(self.matrix).reshape(3, 3), unbent)

    def to_pixels(self, points: Points) -> Points:
        """Return the pixels of points of the bed, shape (n, 2), in mm."""
        back = np.linalg.inv(np.array(self.matrix).reshape(3, 3))
        wanted = mapped(back, points)
        bent = wanted.copy()
        for _ in range(_STEPS):
            bent = wanted / _factor(bent, self.bend)[:, None]
        half = np.hypot(self.width, self.height) / 2
        return bent * half + ((self.width - 1) / 2, (self.height - 1) / 2)

    def look(
        self, codes: NDArray[np.uint8], bed: MachinePart, px_mm: float
    ) -> NDArray[np.uint8]:
        """Return a photo as the bed is seen from above, row 0 at its back.

        Raises
        ------
        ArtworkError
            When the photo is not as large as the one that was calibrated by.
        """
        if codes.shape[:2] != (self.height, self.width):
            raise ArtworkError(
                f"This photo has {codes.shape[1]} × {codes.shape[0]} pixels; the camera "
                f"was calibrated with {self.width} × {self.height}. Take it the same way."
            )
        cols, rows = round(bed.bed_width_mm * px_mm), round(bed.bed_height_mm * px_mm)
        x, y = np.meshgrid(
            (np.arange(cols) + 0.5) / px_mm,
            bed.bed_height_mm - (np.arange(rows) + 0.5) / px_mm,
        )
        seen = self.to_pixels(np.stack([x.ravel(), y.ravel()], axis=1))
        across, down = (part.reshape(rows, cols).astype(np.float32) for part in seen.T)
        return np.asarray(cv2.remap(codes, across, down, cv2.INTER_LINEAR), np.uint8)


def calibrate(codes: NDArray[np.uint8], machine: MachinePart) -> BedCamera:
    """Return the camera that took a photo of a machine's marks card.

    Raises
    ------
    ArtworkError
        When too few marks are found.
    """
    marks = bed_marks(machine)
    found = find_marks(codes, len(marks.corners), _LOOK_PX)
    if len(found) < _LEAST_MARKS:
        raise ArtworkError(
            f"{len(found)} of {len(marks.corners)} marks were found; "
            f"{_LEAST_MARKS} are needed. Take the photo with the whole card in it, "
            "in even light."
        )
    on_bed = np.concatenate([marks.ends(number) for number in found])
    pixels = np.concatenate(list(found.values()))
    height, width = codes.shape[:2]
    middle = _centred(pixels, width, height)

    def off(bend: NDArray[np.float64]) -> NDArray[np.float64]:
        unbent = _unbent(middle, bend)
        return (mapped(_homography(unbent, on_bed), unbent) - on_bed).ravel()

    bend = scipy.optimize.least_squares(off, np.zeros(3), x_scale=0.1).x
    unbent = _unbent(middle, bend)
    matrix = _homography(unbent, on_bed)
    away = np.hypot(*(mapped(matrix, unbent) - on_bed).T)
    k1, k2, k3 = (float(k) for k in bend)
    return BedCamera(
        width, height, tuple(float(m) for m in matrix.ravel()), (k1, k2, k3),
        float(np.sqrt((away**2).mean())), float(away.max()), len(found),
    )  # fmt: skip


def _centred(pixels: Points, width: int, height: int) -> Points:
    half = np.hypot(width, height) / 2
    return np.asarray((pixels - ((width - 1) / 2, (height - 1) / 2)) / half)


def _factor(points: Points, bend: Any) -> NDArray[np.float64]:
    r2 = (points**2).sum(axis=1)
    return np.asarray(1 + r2 * (bend[0] + r2 * (bend[1] + r2 * bend[2])))


def _unbent(points: Points, bend: Any) -> Points:
    return np.asarray(points * _factor(points, bend)[:, None])


def _homography(points: Points, onto: Points) -> NDArray[np.float64]:
    matrix, _ = cv2.findHomography(points, onto, 0)
    return np.asarray(matrix, np.float64)
