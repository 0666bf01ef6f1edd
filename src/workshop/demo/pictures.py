"""Pictures of the demo, made by arithmetic: a moon, star trails, a comet, a dome.

Nothing is photographed and nothing downloaded. Each function returns sRGB
codes, uint8, gray (rows, cols) or colour (rows, cols, 3), and is the same on
every run.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

Gray = NDArray[np.float32]


def _clouds(rows: int, cols: int, seed: int, coarsest: int, octaves: int = 6) -> Gray:
    """Return fractal noise of mean 0 and deviation 1."""
    random = np.random.default_rng(seed)
    out = np.zeros((rows, cols), np.float32)
    for octave in range(octaves):
        cells = coarsest * 2**octave
        grid = random.standard_normal((cells + 3, cells + 3)).astype(np.float32)
        out += cv2.resize(grid, (cols, rows), interpolation=cv2.INTER_CUBIC) * 0.55**octave
    return (out - out.mean()) / out.std()


def _codes(light: Gray) -> NDArray[np.uint8]:
    return np.rint(np.clip(light, 0, 1) * 255).astype(np.uint8)


def _crater(height: Gray, x: float, y: float, radius: float, depth: float) -> None:
    """Press a bowl with a raised rim into the height field."""
    n, reach = height.shape[0], int(radius * 2.2) + 2
    x0, x1 = max(int(x) - reach, 0), min(int(x) + reach + 1, n)
    y0, y1 = max(int(y) - reach, 0), min(int(y) + reach + 1, n)
    if x0 >= x1 or y0 >= y1:
        return
    dy, dx = np.mgrid[y0:y1, x0:x1].astype(np.float32)
    t = np.hypot(dx - x, dy - y) / radius
    part = height[y0:y1, x0:x1]
    bowl = np.maximum(-(1 - t * t) * 1.2, -0.85)
    keep = np.where(t < 0.85, 0.3, np.clip(0.3 + (t - 0.85) * 4.7, 0, 1))
    inside = part * keep + depth * bowl
    rim = depth * 0.45 * np.exp(-(((t - 1) / 0.17) ** 2))
    part[:] = np.where(t < 1, inside, part) + rim


def moon(size: int = 1600, phase: float = 52.0, seed: int = 11) -> NDArray[np.uint8]:
    """Return a cratered moon on a black sky, lit from the right.

    Parameters
    ----------
    size : int
        Side of the square picture in pixels.
    phase : float
        Degrees: 0 is full, 90 half.
    seed : int
        Which moon.
    """
    random = np.random.default_rng(seed)
    disc = size * 0.94
    axis = (np.arange(size, dtype=np.float32) + 0.5 - size / 2) / (disc / 2)
    x, y = np.meshgrid(axis, axis)
    round_ = x * x + y * y
    z = np.sqrt(np.clip(1 - round_, 0, 1))
    rough = _clouds(size, size, seed + 1, 6)
    plains = _clouds(size, size, seed + 2, 3, 4) + 0.9 * np.exp(
        -((x + 0.3) ** 2 + (y + 0.3) ** 2) * 3
    )
    sea = 1 / (1 + np.exp(-(plains - 0.75) * 6))
    height = 1.6 * rough
    _pit(height, random, disc, 1400, (3.0, 90.0), size)
    height = height * (1 - 0.88 * sea)
    _pit(height, random, disc, 500, (2.5, 24.0), size)
    slope_y, slope_x = np.gradient(cv2.GaussianBlur(height, (0, 0), 0.8))
    angle = np.deg2rad(phase)
    sun = np.array([np.sin(angle), -0.18 * np.sin(angle), np.cos(angle)], np.float32)
    sun /= np.linalg.norm(sun)
    relief = 0.85
    nx, ny, nz = x - relief * slope_x, y - relief * slope_y, z + 0.02
    long = np.sqrt(nx * nx + ny * ny + nz * nz)
    lit = np.clip((nx * sun[0] + ny * sun[1] + nz * sun[2]) / long, 0, 1)
    day = np.clip((x * sun[0] + y * sun[1] + z * sun[2]) * 6, 0, 1)
    albedo = np.clip(0.8 + 0.06 * rough - 0.38 * sea, 0.2, 1)
    edge = np.clip((1 - np.sqrt(round_)) * disc / 2 / 1.5 + 0.5, 0, 1)
    light = albedo * lit**0.75 * day * edge
    # Of a thin crescent less is lit than the percentile leaves out; of a new moon nothing.
    top = np.percentile(light[round_ < 0.95], 99.5) or light.max() or 1.0
    return _codes((light / top) ** (1 / 1.5))


def _pit(
    height: Gray,
    random: np.random.Generator,
    disc: float,
    count: int,
    radii: tuple[float, float],
    size: int,
) -> None:
    """Strike craters of power-law sizes, evenly over the ball."""
    low, high = radii[0] ** -1.8, radii[1] ** -1.8
    radius = np.sort((low + random.random(count) * (high - low)) ** (-1 / 1.8))[::-1]
    far = np.sqrt(1 - random.random(count) ** 2)
    turn = random.random(count) * 2 * np.pi
    depth = (0.35 + 0.65 * random.random(count)) * radius * 0.24
    scale = size / 1600
    for i in range(count):
        x = size / 2 + far[i] * np.cos(turn[i]) * disc / 2
        y = size / 2 + far[i] * np.sin(turn[i]) * disc / 2
        _crater(height, x, y, radius[i] * scale, depth[i] * scale)


def crater(size: int = 900, seed: int = 41) -> NDArray[np.uint16]:
    """Return a crater as a depth picture of sixteen bits: white near, black far."""
    random = np.random.default_rng(seed)
    height = 9.0 * _clouds(size, size, seed, 4)
    _crater(height, size * 0.5, size * 0.52, size * 0.31, size * 0.16)
    peak = np.arange(size, dtype=np.float32) - size * 0.5
    away = np.hypot(peak[None, :], peak[:, None] - size * 0.02)
    height += size * 0.06 * np.exp(-((away / (size * 0.05)) ** 2))
    for _ in range(46):
        x, y = random.uniform(0.04, 0.96, 2) * size
        radius = size * random.uniform(0.008, 0.05)
        _crater(height, x, y, radius, radius * 0.5)
    height = np.asarray(cv2.GaussianBlur(height, (0, 0), 1.2), np.float32)
    share = (height - height.min()) / (height.max() - height.min())
    return np.rint(share * 65535).astype(np.uint16)


def star_trails(cols: int = 1500, rows: int = 2100, seed: int = 5) -> NDArray[np.uint8]:
    """Return star trails round a pole over a line of firs, in colour."""
    random = np.random.default_rng(seed)
    sky = np.zeros((rows, cols, 3), np.float32)
    centre = (cols * 0.52, rows * 0.40)
    for radius in np.sort(random.uniform(12, rows * 0.85, 430)):
        start = random.uniform(0, 360)
        tint = 1 + random.normal(0, 0.07, 3)
        strength = random.uniform(0.15, 1) ** 2 * 0.9
        cv2.ellipse(
            sky,
            (int(centre[0] * 16), int(centre[1] * 16)),
            (int(radius * 16), int(radius * 16)),
            0,
            start,
            start + 46,
            tuple(float(v) for v in strength * tint),
            int(random.integers(1, 4)),
            cv2.LINE_AA,
            4,
        )
    up = np.linspace(0, 1, rows, dtype=np.float32)[:, None, None]
    glow = 0.03 + 0.3 * up**3 * np.array([1.0, 0.82, 0.62], np.float32)
    picture = np.maximum(sky, 0) + glow
    ground = _firs(cols, rows, random)
    picture = picture * (1 - ground[..., None]) + 0.015 * ground[..., None]
    return _codes(picture ** (1 / 1.6))


def star(size: int = 1200, seed: int = 17) -> NDArray[np.uint8]:
    """Return a five-pointed star full of star trails, on white."""
    fine = 4 * size
    turn = np.radians(-90 + 36 * np.arange(10))
    reach = fine * np.where(np.arange(10) % 2, 0.24, 0.47)
    points = fine * np.array([0.5, 0.52]) + reach[:, None] * np.stack(
        [np.cos(turn), np.sin(turn)], axis=1
    )
    mask = np.zeros((fine, fine), np.uint8)
    cv2.fillPoly(mask, [np.rint(points).astype(np.int32)], 255)
    inside = cv2.resize(mask, (size, size), interpolation=cv2.INTER_AREA)[..., None] / 255
    sky = 0.82 * star_trails(size, size, seed)
    return np.rint(sky * inside + 255 * (1 - inside)).astype(np.uint8)


def _firs(cols: int, rows: int, random: np.random.Generator) -> Gray:
    """Return a mask of firs along the lower edge."""
    mask = np.zeros((rows, cols), np.float32)
    hill = rows * 0.9 + rows * 0.02 * np.sin(np.arange(cols) / cols * 7)
    for x in np.sort(random.uniform(-20, cols + 20, 70)):
        base = float(hill[int(np.clip(x, 0, cols - 1))])
        tall = random.uniform(0.05, 0.13) * rows
        for level in range(9):
            top = base - tall * (1 - level / 9)
            half = tall * 0.04 * (level + 1)
            points = [
                (x, top - tall * 0.05),
                (x - half, top + tall * 0.1),
                (x + half, top + tall * 0.1),
            ]
            cv2.fillPoly(mask, [np.array(points, np.int32)], 1.0, cv2.LINE_AA)
    for x in range(cols):
        mask[int(hill[x]) :, x] = 1
    return mask


def comet(cols: int = 1800, rows: int = 1020, seed: int = 3) -> NDArray[np.uint8]:
    """Return a comet with a dust and an ion tail among stars."""
    random = np.random.default_rng(seed)
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    head = (cols * 0.74, rows * 0.34)
    along = (head[0] - x) * 0.92 - (head[1] - y) * 0.39
    off = (head[0] - x) * 0.39 + (head[1] - y) * 0.92
    behind = np.clip(along, 0, None)
    wide = 9 + behind * 0.16
    bend = off + behind**1.7 * 0.0011
    streaks = 1 + 0.16 * np.sin(bend / wide * 9 + _clouds(rows, cols, seed, 4, 4))
    dust = (
        np.exp(-((bend / wide) ** 2))
        * np.exp(-behind / (cols * 0.34))
        * (along > 0)
        * streaks
    )
    ion = (
        np.exp(-((off / (3 + behind * 0.018)) ** 2))
        * np.exp(-behind / (cols * 0.5))
        * (along > 0)
    )
    coma = np.exp(-np.hypot(x - head[0], y - head[1]) / 21)
    light = 0.62 * dust + 0.5 * ion + 1.3 * coma + 0.018
    for _ in range(900):
        sx, sy = random.uniform(0, cols), random.uniform(0, rows)
        bright = random.uniform(0.05, 1) ** 4
        radius = 1 + 2.2 * bright
        cv2.circle(
            light,
            (int(sx * 8), int(sy * 8)),
            int(radius * 8),
            float(0.25 + bright),
            -1,
            cv2.LINE_AA,
            3,
        )
    light = cv2.GaussianBlur(np.asarray(light, np.float32), (0, 0), 0.8)
    return _codes(np.asarray(light, np.float32) ** (1 / 1.7))


def dome(cols: int = 1760, rows: int = 1320, seed: int = 9) -> NDArray[np.uint8]:
    """Return the observatory's dome at dusk, in colour."""
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    up = 1 - y / rows
    cloud = _clouds(rows, cols, seed, 3, 6)
    band = np.clip(0.5 + 0.5 * cloud - np.abs(up - 0.42) * 2.4, 0, 1)
    low, high = np.array([1.0, 0.66, 0.36]), np.array([0.10, 0.16, 0.33])
    mix = np.clip(up * 1.25 - 0.1, 0, 1)[..., None]
    picture = (low * (1 - mix) + high * mix).astype(np.float32)
    picture = picture * (1 - 0.45 * band[..., None]) + 0.5 * band[..., None] * low.astype(
        np.float32
    )
    centre, radius = (cols * 0.5, rows * 0.60), rows * 0.30
    dx, dy = (x - centre[0]) / radius, (y - centre[1]) / radius
    ball = (dx * dx + dy * dy < 1) & (y < centre[1] + 4)
    z = np.sqrt(np.clip(1 - dx * dx - dy * dy, 0, 1))
    shade = np.clip(0.24 + 0.5 * np.clip(-0.75 * dx - 0.15 * dy + 0.5 * z, 0, 1), 0, 1)
    ribs = 1 - 0.22 * (np.abs(np.sin(np.arctan2(dx, z + 1e-3) * 9)) > 0.985)
    tint = np.array([1.0, 0.93, 0.86], np.float32)
    picture = np.where(ball[..., None], (shade * ribs)[..., None] * tint, picture)
    slit = ball & (np.abs(dx - 0.16 - 0.06 * dy) < 0.085) & (dy < -0.12)
    picture = np.where(slit[..., None], np.array([0.05, 0.05, 0.07], np.float32), picture)
    wall = (np.abs(x - centre[0]) < radius * 1.02) & (y >= centre[1]) & (y < rows * 0.83)
    bricks = 0.34 + 0.04 * ((y // 16 + (x // 34)) % 2) - 0.2 * np.clip(dx, 0, 1)
    picture = np.where(wall[..., None], bricks[..., None] * tint, picture)
    ledge = wall & (np.abs(y - centre[1] - 8) < 9)
    picture = np.where(ledge[..., None], np.float32(0.62) * tint, picture)
    door = (
        (np.abs(x - centre[0] + radius * 0.3) < 34) & (y > rows * 0.70) & (y < rows * 0.83)
    )
    picture = np.where(door[..., None], np.array([0.98, 0.78, 0.42], np.float32), picture)
    hill = y > rows * 0.83 + 24 * np.sin(x / cols * 5.2) - 10
    grass = 0.08 + 0.05 * np.clip(_clouds(rows, cols, seed + 1, 24, 4), -1, 2)
    picture = np.where(
        hill[..., None], grass[..., None] * np.array([0.8, 1.0, 0.7], np.float32), picture
    )
    return _codes(np.asarray(np.clip(picture, 0, 1) ** (1 / 1.25), np.float32))
