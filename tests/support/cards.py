"""Cards burned on the stand-in, photographed by the stand-in camera."""

import io

import numpy as np

from engraving.cards import card_job, flatten, lay_out
from engraving.jobspec import CardPart, JobSpec, MachinePart, SubstratePart
from standins.camera import Surface, View, photograph
from standins.controller import Machine, Settings
from support.jobs import pipeline_of

EMPTY = np.zeros((4, 4), np.uint8)


def linear(colour):
    codes = np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255
    light = np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)
    return tuple(float(c) for c in light)


# Five materials nobody knows: colours, the beam's dark or light mark, and how they answer.
HIDDEN = {
    "soft wood": ("#d8b384", "#4a2c17", {"onset": 0.1, "scale": 0.6, "steep": 1.0}),
    "slate": ("#33383c", "#c3c3bd", {"onset": 0.3, "scale": 0.5, "steep": 1.3, "spot_mm": 0.14}),
    "card": ("#e7e2d6", "#5b4630", {"onset": 0.0, "scale": 0.9, "steep": 0.8, "spot_mm": 0.1}),
    "anodised": ("#17181b", "#d9d7d0", {"onset": 0.5, "scale": 0.25, "steep": 1.6, "spot_mm": 0.09}),
    "leather": ("#b9794a", "#3a1d10", {"onset": 0.15, "scale": 0.4, "steep": 1.15, "scorch": 6.0}),
}  # fmt: skip


def material(name, **changes):
    """The program's substrate, which knows colours only, and the hidden surface."""
    ground, mark, answer = HIDDEN[name]
    light = sum(linear(mark)) > sum(linear(ground))
    told = SubstratePart(
        name=name, ground=ground, mark=mark, polarity="lightens" if light else "darkens"
    )
    surface = Surface(ground=linear(ground), mark=linear(mark), **{**answer, **changes})
    return told, surface


def card_spec(substrate, card, burn=None, **machine):
    part = {"z_axis": True, "max_speed_mm_s": 500, "acceleration_mm_s2": 5000, **machine}
    spec = JobSpec(
        machine=MachinePart(**part), substrate=substrate, card=CardPart.model_validate(card)
    )
    spec = spec.model_copy(update={"burn": spec.burn.model_copy(update=burn or {})})
    return card_job(spec)


def burned(spec, pipeline=None, **settings):
    """The stand-in after a job."""
    stream = io.BytesIO()
    (pipeline or pipeline_of(EMPTY)).write_gcode(spec, stream)
    data = spec.machine
    machine = Machine(
        Settings(data.acceleration_mm_s2, data.rapid_mm_s, data.s_max, **settings)
    )
    for line in stream.getvalue().decode().splitlines():
        machine.take(line)
    machine.run()
    return machine


def seen(spec, surface, view=None, pipeline=None, **settings):
    """A card as burned, photographed and flattened."""
    machine = burned(spec, pipeline, **settings)
    photo = photograph(
        machine.strokes(), surface, spec.place.x_mm, spec.place.y_mm,
        (spec.size.width_mm, spec.size.height_mm), view or View(),
    )  # fmt: skip
    return photo, flatten(photo, lay_out(spec))
