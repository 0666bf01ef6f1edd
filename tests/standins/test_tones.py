"""Does a compensated ramp come out at the lightness that was wanted?

Every method, two substrates, patches of 4 mm, on the stand-in.
"""

import numpy as np
import pytest

from engraving.dots import METHODS
from support.ramps import SUBSTRATES, burned_lightness, light, lightness, off, ramp_job


@pytest.mark.parametrize("polarity", SUBSTRATES)
@pytest.mark.parametrize("method", [name for name in METHODS if name != "threshold"])
def test_a_compensated_ramp_is_within_two_of_the_wanted_lightness(method, polarity):
    compensated, plain = off(polarity, method)
    # Six-eighths lets its lightest and darkest tones go: what it makes of them
    # takes a while to begin, so there is no even ramp to be had at that end.
    assert compensated < (5 if (method, polarity) == ("atkinson", "lightens") else 2)
    assert plain > 2 * compensated


def test_the_ends_are_those_of_the_substrate():
    burned = burned_lightness(*ramp_job("lightens", "spot", "floyd-steinberg"))
    assert burned[0] == pytest.approx(float(lightness(np.array(light("#33383c")))), abs=0.3)
    assert burned[-1] > 70
