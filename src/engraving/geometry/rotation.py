"""Turning points in the plane, counter-clockwise where y points up."""

import math

import numpy as np
from numpy.typing import NDArray


def rotation(angle_deg: float) -> NDArray[np.float64]:
    """Return the matrix that turns column vectors, shape (2, 2)."""
    cos, sin = math.cos(math.radians(angle_deg)), math.sin(math.radians(angle_deg))
    return np.array([[cos, -sin], [sin, cos]])


def turned_points(
    points: NDArray[np.floating], middle: tuple[float, float], angle_deg: float
) -> NDArray[np.float64]:
    """Return points, shape (n, 2), turned about another."""
    return np.asarray((points - middle) @ rotation(angle_deg).T + middle)


def turned_about(
    x: float, y: float, middle: tuple[float, float], angle_deg: float
) -> tuple[float, float]:
    """Return one point turned about another."""
    ((across, up),) = turned_points(np.array([[x, y]]), middle, angle_deg).tolist()
    return across, up
