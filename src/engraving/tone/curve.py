"""All point operations of the Tone station, folded into one table."""

import numpy as np
import scipy
from numpy.typing import NDArray

from engraving.colour.light import to_coded, to_linear
from engraving.jobspec import TonePart

Values = NDArray[np.float64]

SHADE = 1.09
"""One shade lighter raises the middle tones by this gamma."""


def tone_table(tone: TonePart, steps: int = 256) -> NDArray[np.uint8]:
    """Return the 256 codes that the codes 0…255 become.

    With `steps` 65536 it is entered with codes of sixteen bits.

    Order: exposure; input black, gamma and white; brightness; contrast;
    shades; curve; output black and white, so that no tone lies beyond those.
    """
    value = _through_curve(before_curve(tone, steps), tone.curve)
    low, high = tone.output_black / 255, tone.output_white / 255
    value = low + (high - low) * np.clip(value, 0, 1)
    return np.floor(value * 255 + 0.5).astype(np.uint8)


def before_curve(tone: TonePart, steps: int = 256) -> Values:
    """Return what enters the curve, 0..1, for each code that enters the station."""
    value = np.arange(steps) / (steps - 1)
    value = _exposed(value, tone.exposure, tone.offset / 100)
    value = _levels(value, tone)
    value = _brightness(value, tone.brightness / 100)
    value = np.clip(_contrast(value, tone.contrast / 100), 0, 1)
    return value ** (SHADE**-tone.shade)


def _exposed(value: Values, stops: float, offset: float) -> Values:
    """Multiply and add in linear light, as a longer exposure and a veil of light do."""
    if stops == 0 and offset == 0:
        return value
    light = to_linear(value) * 2.0**stops + offset
    return np.asarray(to_coded(np.clip(light, 0, 1)), np.float64)


def _levels(value: Values, tone: TonePart) -> Values:
    """Return ``clip((v - b)/(w - b))^(1/gamma)``.

    Gonzalez & Woods, Digital Image Processing, on intensity transforms; the
    exponent 1/gamma is a convention (above 1 lightens).
    """
    black, white = tone.input_black / 255, tone.input_white / 255
    return np.clip((value - black) / (white - black), 0, 1) ** (1 / tone.gamma)


def _brightness(value: Values, amount: float) -> Values:
    """Move tones towards white (`amount` > 0) or black, ends kept (convention)."""
    target = 1.0 if amount > 0 else 0.0
    return value + (target - value) * abs(amount)


def _contrast(value: Values, amount: float) -> Values:
    """Steepen (`amount` > 0) or flatten about middle gray.

    The slope is tan((1 + amount)·45°): 0 at -1, 1 at 0, vertical at 1
    (convention).
    """
    if amount >= 1:
        return np.where(value < 0.5, 0.0, 1.0)
    slope = np.tan((1 + amount) * np.pi / 4)
    return 0.5 + (value - 0.5) * slope


def _through_curve(value: Values, points: tuple[tuple[float, float], ...]) -> Values:
    """Bend along a monotone cubic through points; level beyond the first and last.

    Fritsch & Carlson 1980, SIAM J. Numer. Anal. 17:238-246, with the
    derivatives of Fritsch & Butland 1984: between points it never overshoots.
    """
    if not points:
        return value
    # Rounded far below a code, so that no slope is too small to be divided by.
    x, y = (np.round(np.array(axis) / 255, 9) for axis in zip(*points, strict=True))
    return np.asarray(
        scipy.interpolate.PchipInterpolator(x, y)(np.clip(value, x[0], x[-1])), np.float64
    )
