"""Each mistake of `docs/mistakes.md`, made, and what catches it."""

import io
import re
from pathlib import Path
from unittest.mock import patch

import numpy as np
import pytest
from PIL import Image

from engraving.errors import EngravingError
from engraving.jobspec import JobSpec
from support.gate import sign_all, tick_all
from support.jobs import changed
from workshop.bench.runs.start import CannotBurnError, start_run
from workshop.jobs.hands.ticks import hand_list
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.revisions.writer import change, spec_of
from workshop.jobs.ticket.findings import full_check
from workshop.jobs.ticket.lifecycle import open_job
from workshop.shelf.blanks.changes import put_blank

LIST = Path(__file__).parents[2] / "docs/mistakes.md"
ROW = re.compile(r"\| (?!mistake|---)(.+?) \| (.+?) \|")
LISTED = dict(ROW.findall(LIST.read_text()))


class Workshop:
    """Somebody who makes mistakes."""

    def __init__(self, job, shelf):
        self.job, self.shelf = job, shelf
        self.spec = spec_of(job)

    def rules(self, **parts):
        """The rules that find something in the job, changed so."""
        return {one.rule for one in full_check(self.job, changed(self.spec, **parts))[0]}

    def of(self, picture, **options):
        """The job of another picture, as it opens."""
        stream = io.BytesIO()
        Image.fromarray(picture).save(stream, options.pop("format", "PNG"), **options)
        artwork = keep_artwork("other.png", [stream.getvalue()])
        self.job = Job.objects.with_all().get(pk=open_job(artwork, "Other").pk)
        self.spec = spec_of(self.job)
        return self

    def asked(self):
        """What the list for the hands asks for."""
        job = Job.objects.with_all().get(pk=self.job.pk)
        return {one.line.slug for one in hand_list(job) if one.open}

    def change(self, **parts):
        change(self.job, changed(self.spec, **parts), "A mistake")
        return self


@pytest.fixture
def workshop(ticket, shelf):
    return Workshop(ticket, shelf)


def round_piece(workshop):
    wall = put_blank(
        "Cup", workshop.shelf["slate"], shape="wall", diameter_mm=60, height_mm=80
    )
    return {"blank": wall.part, "side": {}}


def transparent(workshop):
    picture = np.zeros((60, 80, 4), np.uint8)
    picture[20:40, 20:60] = (40, 40, 40, 255)
    bits = pipeline().dots(workshop.of(picture).spec).unpack()
    rows, cols = np.nonzero(bits)
    edge = np.array(bits.shape) / (60, 80)
    assert bits.any()
    assert rows.min() >= 19 * edge[0]
    assert rows.max() <= 41 * edge[0]
    assert cols.min() >= 19 * edge[1]


def white_on_white(workshop):
    picture = np.zeros((120, 160, 4), np.uint8)
    picture[30:90, 40:120] = (250, 250, 250, 255)
    picture[50:70, 60:100, :3] = 60
    return workshop.of(picture).rules()


def not_told(workshop):
    return workshop.rules(**round_piece(workshop))


def told_not_fitted(workshop):
    with pytest.raises((EngravingError, ValueError), match="can be turned"):
        changed(workshop.spec, mount={"kind": "chuck"})
    turned = changed(workshop.spec, **round_piece(workshop), mount={"kind": "chuck"})
    workshop.spec = turned
    workshop.change()
    assert "rotary" in workshop.asked()


def strips(workshop):
    around = {"width_mm": 60 * np.pi - 3, "height_mm": 20, "fit": "exact"}
    return workshop.rules(
        **round_piece(workshop), mount={"kind": "chuck"}, size=around, artwork={}
    )


def not_inverted(workshop):
    dark = changed(workshop.spec, substrate={"polarity": "lightens"})
    burned = pipeline().dots(dark).unpack().mean()
    assert burned == pytest.approx(
        1 - pipeline().dots(workshop.spec).unpack().mean(), abs=0.1
    )
    assert dark.inverted is False


def not_mirrored(workshop):
    glass = {"substrate": {"clear": True, "worked_from": "back"}}
    plate = {"side": {"printing_plate": True, "mirror": "no"}}
    return workshop.rules(**glass) | workshop.rules(**plate)


def too_dark(workshop):
    dark = workshop.rules(tone={"on": True, "exposure": -3.0})
    return dark | workshop.rules(tone={"on": True, "input_black": 160.0})


def made_of_dots(workshop):
    dots = np.where(np.random.default_rng(2).random((200, 260)) < 0.4, 0, 255)
    return workshop.of(dots.astype(np.uint8)).rules()


def resized_dots(workshop):
    found = made_of_dots(workshop)
    small = changed(
        workshop.spec, size={"width_mm": 17.3, "height_mm": 13.3, "fit": "exact"}
    )
    assert pipeline().dots(small).rows == small.size.rows
    return found


def settings_lost(workshop):
    sign_all(workshop.job)
    run = start_run(Job.objects.with_all().get(pk=workshop.job.pk))
    assert JobSpec.model_validate(run.spec) == workshop.spec


def other_bed(workshop):
    machine = workshop.job.machine
    machine.told = {"settings": {"130": 300.0, "131": 200.0}}
    machine.save()
    workshop.job = Job.objects.with_all().get(pk=workshop.job.pk)
    return workshop.rules() | workshop.rules(place={"x_mm": 390})


def typed_in_inches(workshop):
    job = workshop.job
    speed = spec_of(job).burn.speed_mm_s
    small = {"width_mm": 100 / 25.4, "height_mm": 80 / 25.4, "fit": "exact"}
    return workshop.rules(burn={"speed_mm_s": speed / 60}) | workshop.rules(
        size=small, blank={"width_mm": 100, "height_mm": 80}
    )


def under_glass(workshop):
    workshop.job.substrate.care = {"underlay": "a wooden board"}
    return workshop.rules(substrate={"clear": True})


def asks_for(*slugs):
    def made(workshop):
        wide = {"width_mm": 90, "height_mm": 20, "fit": "exact"}
        workshop.change(size=wide)
        tick_all(workshop.job)
        assert not workshop.asked()
        workshop.job.machine.ticks.filter(slug__in=slugs).delete()
        assert workshop.asked() == set(slugs)

    return made


def changes(**parts):
    return lambda workshop: workshop.rules(**parts)


def carved(**carving):
    """Carved by a V-tool, which a mill has."""
    return {
        "machine": {"kind": "vtool", "z_axis": True},
        "marking": {"way": "carved", "carving": carving},
        "dots": {"method": "wavy", "ruling_cm": 4},
    }


def photograph_as_depth(workshop):
    grain = np.random.default_rng(3).integers(0, 256, (200, 260)).astype(np.uint8)
    return workshop.of(grain).rules(marking={"way": "relief"})


def depth_as_tones(workshop):
    y, x = np.mgrid[:300, :300]
    bowl = np.sqrt(np.maximum(1 - (np.hypot(x - 150, y - 150) / 140) ** 2, 0))
    return workshop.of((255 * bowl).astype(np.uint8)).rules()


def through_the_board(workshop):
    thin = carved(deepest_mm=3.0) | {"blank": {"thickness_mm": 3}}
    deepest = [
        m.z.min() * m.unit_mm for m in pipeline().bands(changed(workshop.spec, **thin))
    ]
    assert min(deepest) >= -2.8 - 1e-6
    return workshop.rules(**thin)


def uneven(workshop):
    asks_for("level")(workshop)
    return workshop.rules(**carved(uneven_mm=0.2))


def too_fine(workshop):
    letters = {"lettering": {"lines": [{"text": "Ada", "cap_mm": 3}]}}
    inside = {
        "kind": "inside",
        "shape": "lettering",
        "offset_mm": 0,
        "tool": {"tip_mm": 3.0},
    }
    fine = carved() | letters | {"operations": [{"kind": "raster"}, inside]}
    return workshop.rules(**(fine | {"dots": {"method": "wavy", "ruling_cm": 60}}))


def not_touched_off(workshop):
    workshop.change(
        machine={"kind": "drag", "max_speed_mm_s": 5000}, marking={"way": "drag"}
    )
    job = Job.objects.with_all().get(pk=workshop.job.pk)
    sign_all(job)
    tick_all(job)
    asked = patch("workshop.bench.runs.start.link", return_value={"touched": False})
    with asked, pytest.raises(CannotBurnError, match="touched off"):
        start_run(Job.objects.with_all().get(pk=workshop.job.pk))


def too_little_light(workshop):
    dark = workshop.of(np.full((200, 260), 6, np.uint8))
    plate = {"kind": "drag", "z_axis": True}
    return dark.rules(
        machine=plate, marking={"way": "drag"}, substrate={"polarity": "lightens"}
    )


CUT_FIRST = [{"kind": "cut"}, {"kind": "raster"}]
MISTAKES = {
    "transparent ground burns black": transparent,
    "white subject melts into white ground": white_on_white,
    "rotary fitted but not told": not_told,
    "rotary told but not fitted": told_not_fitted,
    "strips on a ring do not meet": strips,
    "picture not inverted for a dark board": not_inverted,
    "inverted by accident": changes(side={"invert": "yes"}),
    "plate or mirror not mirrored": not_mirrored,
    "focus not set": asks_for("focus"),
    "surface not cleaned": asks_for("clean"),
    "picture too dark for the process": too_dark,
    "resized after it was made of dots": resized_dots,
    "made of dots twice": made_of_dots,
    "nothing included": changes(operations=[{"kind": "raster", "on": False}]),
    "rows finer than the spot": changes(size={"pitch_mm": 0.05}),
    "edge not covered by half a millimetre": changes(size={"fit": "cover"}),
    "underlay stains": under_glass,
    "mercury in an old mirror": changes(substrate={"hazard": "old-mirror"}),
    "settings not kept": settings_lost,
    "default bed size put back": other_bed,
    "source too small": changes(size={"pitch_mm": 0.05}),
    "uneven bed": uneven,
    "photograph taken for a depth picture": photograph_as_depth,
    "depth picture burned as tones": depth_as_tones,
    "carved through the board": through_the_board,
    "tool too wide for the detail": too_fine,
    "tool not touched off": not_touched_off,
    "too little light for a plate": too_little_light,
    "cut before it is engraved": changes(operations=CUT_FIRST),
    "steps of a turn unknown": lambda workshop: workshop.rules(
        **round_piece(workshop), mount={"kind": "chuck"}
    ),
    "air, exhaust, goggles forgotten": asks_for("air", "exhaust", "eyes"),
    "off the bed": changes(place={"x_mm": 395}),
    "mixed units": typed_in_inches,
}


def test_every_mistake_is_made_here():
    assert LISTED.keys() == MISTAKES.keys()
    assert len(LISTED) == 33


@pytest.mark.parametrize("name", MISTAKES)
def test_each_mistake_is_caught_or_cannot_be_made(name, workshop):
    found = MISTAKES[name](workshop)
    wanted = set(re.findall(r"`(\w+)`", LISTED[name]))
    assert wanted <= (found or set())
