"""Plain error diffusion, written for clarity: an oracle with no code in common.

The tables are typed in again from the publications named beside them.
Convention: white at 127.5 or more, errors not clamped, error over an edge
dropped, serpentine turns rows 1, 3, 5 … and mirrors the weights.
"""

from fractions import Fraction

import numpy as np

# name: (divisor, current row from the dot on, then the rows below centred on it)
TABLES = {
    # Floyd & Steinberg 1976, Proc. SID 17(2):75-77
    "floyd-steinberg": (16, [7], [[3, 5, 1]]),
    # Jarvis, Judice & Ninke 1976, CGIP 5:13-40
    "jarvis": (48, [7, 5], [[3, 5, 7, 5, 3], [1, 3, 5, 3, 1]]),
    # Stucki 1981, IBM Research Report RZ 1060
    "stucki": (42, [8, 4], [[2, 4, 8, 4, 2], [1, 2, 4, 2, 1]]),
    # no paper (from memory): six eighths of the error are passed on
    "atkinson": (8, [1, 1], [[1, 1, 1], [0, 1, 0]]),
    # Burkes 1988, unpublished (from memory)
    "burkes": (32, [8, 4], [[2, 4, 8, 4, 2]]),
    # Sierra 1989 and 1990, unpublished (from memory)
    "sierra": (32, [5, 3], [[2, 4, 5, 4, 2], [0, 2, 3, 2, 0]]),
    "sierra-two-row": (16, [4, 3], [[1, 2, 3, 2, 1]]),
    "sierra-lite": (4, [2], [[1, 1, 0]]),
    # Stevenson & Arce 1985, JOSA A 2:1009-1013 (from memory)
    "stevenson-arce": (
        200,
        [0, 32],
        [[12, 0, 26, 0, 30, 0, 16], [0, 12, 0, 26, 0, 12, 0], [5, 0, 12, 0, 12, 0, 5]],
    ),
}


def taps(name):
    """List (dx, dy, weight) of a table."""
    _, ahead, below = TABLES[name]
    found = [(i + 1, 0, weight) for i, weight in enumerate(ahead) if weight]
    for dy, row in enumerate(below, start=1):
        found += [(i - len(row) // 2, dy, w) for i, w in enumerate(row) if w]
    return found


def diffuse(image, name, *, serpentine, number=Fraction):
    """Return rows of 0/1, 1 = white, computed with `number`."""
    divisor = TABLES[name][0]
    height, width = len(image), len(image[0])
    value = [[number(int(p)) for p in row] for row in image]
    white = [[0] * width for _ in range(height)]
    for y in range(height):
        step = -1 if serpentine and y % 2 else 1
        for x in range(width)[::step]:
            v = value[y][x]
            white[y][x] = int(2 * v >= 255)
            error = v - 255 * white[y][x]
            for dx, dy, weight in taps(name):
                xx, yy = x + step * dx, y + dy
                if 0 <= xx < width and yy < height:
                    value[yy][xx] += error * weight / divisor
    return white


def diffuse_float32(levels, name, *, serpentine):
    """Return white dots in float32 and in the very order of operations promised."""
    divisor = TABLES[name][0]
    f, half = np.float32, np.float32(127.5)
    share = {(dx, dy): f(weight / divisor) for dx, dy, weight in taps(name)}
    rows, cols = levels.shape
    error = np.zeros((rows + 3, cols + 6), f)  # three rows above, three columns each side
    white = np.zeros((rows, cols), np.uint8)
    near, far = share.get((1, 0), f(0)), share.get((2, 0), f(0))
    for y in range(rows):
        turned = serpentine and y % 2 == 1
        value, before = f(0), f(0)
        for i in range(cols):
            x = cols - 1 - i if turned else i
            base = f(levels[y, x]) - half
            signs = [(-1 if serpentine and (y - dy) % 2 == 1 else 1) for dy in (1, 2, 3)]

            def handed(dy, columns, x=x, y=y, signs=signs):
                for k in columns:
                    weight = share.get((-k * signs[dy - 1], dy), f(0))
                    yield weight * error[y + 3 - dy, x + 3 + k]

            for part in handed(1, range(-2, 3)):
                base += part
            if any(dy == 2 for _, dy in share):
                base += sum(handed(2, range(-2, 3)), f(0))
            if any(dy == 3 for _, dy in share):
                base += sum(handed(1, (-3, 3)), f(0))
                base += sum(handed(3, (-3, -1, 1, 3)), f(0))
            if i == 0:
                new = base
            else:
                waiting = base + far * before
                step = np.copysign(near * half, value)
                before = value - np.copysign(half, value)
                new = (waiting - step) + near * value
            error[y + 3, x + 3] = new - np.copysign(half, new)
            white[y, x] = new >= 0
            value = new
    return white
