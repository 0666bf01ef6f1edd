"""Where each dot looks in the file: corners, turns, mirror, tilt and crop as one map.

Points are measured in pixels or dots from the top left corner, so a pixel's
middle lies at one half.
"""

import numpy as np

from engraving.geometry.homography import Matrix, homography, shift
from engraving.geometry.rotation import rotation
from engraving.jobspec import ArtworkPart


def squaring(part: ArtworkPart) -> Matrix:
    """Return the map from the squared-up picture to the file, in pixels."""
    if part.corners is None:
        return np.eye(3)
    width, height = part.flat_px
    flat = np.array([(0, 0), (width, 0), (width, height), (0, height)], np.float64)
    file = [(x * part.width_px, y * part.height_px) for x, y in part.corners]
    return homography(flat, np.array(file))


def turning(part: ArtworkPart) -> Matrix:
    """Return the map from the turned and mirrored picture to the squared-up one."""
    width, height = part.flat_px
    out = np.eye(3)
    for _ in range(part.turns):
        # Clockwise once: its x runs down the old left edge, its y along the old bottom.
        out = out @ np.array([[0, 1, 0], [-1, 0, height], [0, 0, 1]], np.float64)
        width, height = height, width
    if part.mirror:
        out = out @ np.array([[-1, 0, width], [0, 1, 0], [0, 0, 1]], np.float64)
    return out


def levelling(part: ArtworkPart) -> Matrix:
    """Return the map from the levelled window to the turned picture."""
    width, height = part.turned_px
    across, down = part.level_px
    # The picture turns clockwise, so each point looks back anticlockwise.
    turn = np.eye(3)
    turn[:2, :2] = rotation(-part.straighten_deg)
    return shift(width / 2, height / 2) @ turn @ shift(-across / 2, -down / 2)


def level_to_file(part: ArtworkPart) -> Matrix:
    """Return the map from the levelled picture, uncropped, to the file, in pixels."""
    return squaring(part) @ turning(part) @ levelling(part)


def grid_to_file(part: ArtworkPart, cols: int, rows: int) -> Matrix:
    """Return the map from the burn grid, in dots, to the file, in pixels."""
    left, top, across, down = part.window_px
    crop = np.array([[across / cols, 0, left], [0, down / rows, top], [0, 0, 1]])
    return level_to_file(part) @ crop


def grid_to_shares(part: ArtworkPart, cols: int, rows: int) -> Matrix:
    """Return the map from the burn grid to shares of the file, as edits are kept."""
    shares = np.diag([1 / part.width_px, 1 / part.height_px, 1.0])
    return shares @ grid_to_file(part, cols, rows)
