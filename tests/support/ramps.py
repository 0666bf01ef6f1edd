"""Ramps burned on the stand-in, and the lightness they come out at.

The stand-in's map of the beam's path shares no code with the program; spot,
substrate and lightness are computed here anew.
"""

import io

import numpy as np
from scipy.ndimage import gaussian_filter

from engraving.jobspec import ArtworkPart, JobSpec, SizePart
from standins.controller import Machine, Settings
from support.jobs import changed, pipeline_of

CODES = np.array([0, 25, 51, 76, 102, 128, 153, 179, 204, 230, 255])  # 0, 10 … 90, 100 %
SIDE_MM, INNER_MM, FINE_MM = 5.0, 4.0, 0.02
SUBSTRATES = {
    "darkens": {"ground": "#d8b384", "mark": "#4a2c17", "response": 2.2},
    "lightens": {"ground": "#33383c", "mark": "#c3c3bd", "response": 1.9},
}
SPOTS = {"darkens": 0.12, "lightens": 0.15}


def light(colour):
    codes = np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255
    linear = np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)
    return float(linear @ [0.2126, 0.7152, 0.0722])


def lightness(y):
    """CIE 15: 116 Y^(1/3) - 16 above 216/24389."""
    return np.where(y > 216 / 24389, 116 * np.cbrt(y) - 16, y * 24389 / 27)


def ramp_job(polarity, mode, method):
    side = round(SIDE_MM / 0.1)
    gray = np.kron(CODES[None, :], np.ones((side, side))).astype(np.uint8)
    spec = JobSpec(
        artwork=ArtworkPart(width_px=gray.shape[1], height_px=side),
        size=SizePart(width_mm=gray.shape[1] * 0.1, height_mm=SIDE_MM, pitch_mm=0.1),
    )
    look = {"polarity": polarity, **SUBSTRATES[polarity]}
    spec = changed(spec, substrate=look, reproduction={"mode": mode}, dots={"method": method},
                   machine={"spot_mm": SPOTS[polarity], "s_max": 10000}, burn={"power": 80})  # fmt: skip
    return spec, pipeline_of(gray)


def burned_lightness(spec, pipeline):
    stream = io.BytesIO()
    pipeline.write_gcode(spec, stream)
    machine = Machine(
        Settings(
            spec.machine.acceleration_mm_s2, spec.machine.rapid_mm_s, spec.machine.s_max
        )
    )
    for line in stream.getvalue().decode().splitlines():
        machine.take(line)
    machine.run()
    shape = round(SIDE_MM / FINE_MM), round(len(CODES) * SIDE_MM / FINE_MM)
    energy = machine.map(spec.place.x_mm, spec.place.y_mm, (FINE_MM, FINE_MM), shape)
    solid = spec.burn.power / 100 / (spec.burn.speed_mm_s * spec.size.pitch_mm) * FINE_MM**2
    spread = gaussian_filter(energy / solid, spec.machine.spot_mm / 4 / FINE_MM, truncate=5)
    k = spec.substrate.response
    mark = np.minimum((1 - np.exp(-k * spread)) / (1 - np.exp(-k)), 1)
    ground, full = light(spec.substrate.ground), light(spec.substrate.mark)
    edge = round((SIDE_MM - INNER_MM) / 2 / FINE_MM)
    patches = mark.reshape(shape[0], len(CODES), -1).transpose(1, 0, 2)
    inner = patches[:, edge:-edge, edge:-edge].mean(axis=(1, 2))
    return lightness(ground + (full - ground) * inner)


def wanted(burned):
    """Even in lightness between the two ends that were burned: nothing, and a solid."""
    code = CODES / 255
    linear = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)
    return burned[0] + (burned[-1] - burned[0]) * lightness(linear) / 100


def off(polarity, method):
    """Largest distance to the wanted L*, compensated and plain."""
    burned = (
        burned_lightness(*ramp_job(polarity, mode, method)) for mode in ("spot", "plain")
    )
    return tuple(float(np.abs(one - wanted(one)).max()) for one in burned)
