"""All point operations of the Tone station, folded into one table."""

import numpy as np
from numpy.typing import NDArray

from engraving.spec import TonePart


def tone_table(tone: TonePart, steps: int = 256) -> NDArray[np.uint8]:
    """Return the 256 codes that the codes 0…255 become.

    With `steps` 65536 it is entered with codes of sixteen bits.

    Order: input black, gamma and white; output black and white; brightness;
    contrast.
    """
    value = _levels(np.arange(steps) / (steps - 1), tone)
    value = _brightness(value, tone.brightness / 100)
    value = _contrast(value, tone.contrast / 100)
    return np.floor(np.clip(value, 0, 1) * 255 + 0.5).astype(np.uint8)


def _levels(value: NDArray[np.float64], tone: TonePart) -> NDArray[np.float64]:
    """Return ``o0 + (o1 - o0)·clip((v - b)/(w - b))^(1/gamma)``.

    Gonzalez & Woods, Digital Image Processing, on intensity transforms; the
    exponent 1/gamma is a convention (above 1 lightens).
    """
    black, white = tone.input_black / 255, tone.input_white / 255
    low, high = tone.output_black / 255, tone.output_white / 255
    spread = np.clip((value - black) / (white - black), 0, 1)
    return low + (high - low) * spread ** (1 / tone.gamma)


def _brightness(value: NDArray[np.float64], amount: float) -> NDArray[np.float64]:
    """Move tones towards white (`amount` > 0) or black, ends kept (convention)."""
    target = 1.0 if amount > 0 else 0.0
    return value + (target - value) * abs(amount)


def _contrast(value: NDArray[np.float64], amount: float) -> NDArray[np.float64]:
    """Steepen (`amount` > 0) or flatten about middle gray.

    The slope is tan((1 + amount)·45°): 0 at -1, 1 at 0, vertical at 1
    (convention).
    """
    if amount >= 1:
        return np.where(value < 0.5, 0.0, 1.0)
    slope = np.tan((1 + amount) * np.pi / 4)
    return 0.5 + (value - 0.5) * slope
