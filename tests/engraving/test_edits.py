"""Mask, frame, retouching and overlay; and the mistakes they catch."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage
from skimage import data as outside
from skimage import filters, segmentation, transform

from engraving.artwork import Artwork, InMemorySource
from engraving.artwork.cutout import cut_subject
from engraving.artwork.levels import splitting_level
from engraving.artwork.mask import (
    edited,
    feathered,
    finished,
    flooded,
    frame_mask,
    grown,
    whole,
)
from engraving.artwork.retouch import shaded, unshaded
from engraving.artwork.shapes import grid_mm
from engraving.artwork.strokes import stroke_plane
from engraving.colour.light import luminance_codes
from engraving.errors import JobError
from engraving.jobspec import (
    ArtworkPart,
    Brush,
    CutOut,
    Flood,
    Hint,
    JobSpec,
    Lasso,
    MaskPart,
    Shade,
    SizePart,
    Stroke,
)
from engraving.pipeline import Pipeline, StageCache
from support.jobs import changed, pipeline_of


def overlap(found, truth):
    return (found & truth).sum() / (found | truth).sum()


def horse_on_gravel():
    """scikit-image's silhouette, filled with one texture, on another."""
    horse = ~outside.horse()
    shape = horse.shape
    ground = transform.resize(outside.gravel(), shape) * 0.6 + 0.35
    skin = transform.resize(outside.brick(), shape) * 0.35
    gray = np.where(horse, skin, ground)
    tint = np.where(horse[..., None], (1.0, 0.72, 0.5), (0.9, 0.95, 1.0))
    return (gray[..., None] * tint * 255).clip(0, 255).astype(np.uint8), horse


OUTLINE = ((0.02, 0.02), (0.98, 0.02), (0.98, 0.98), (0.02, 0.98))


def test_one_click_cut_out_finds_the_horse():
    rgb, horse = horse_on_gravel()
    found = cut_subject(rgb, CutOut(outline=OUTLINE)) > 127
    assert overlap(found, horse) >= 0.85
    assert np.array_equal(found, cut_subject(rgb, CutOut(outline=OUTLINE)) > 127)


def test_a_hint_takes_a_part_away():
    rgb, horse = horse_on_gravel()
    height, width = horse.shape
    y, x = (np.argwhere(horse).mean(axis=0) / (height, width)).tolist()
    hint = Hint(points=((x, y), (x + 0.05, y)), size=0.08, keep=False)
    found = cut_subject(rgb, CutOut(outline=OUTLINE, hints=(hint,)))
    assert found[int(y * height), int(x * width)] == 0


@pytest.mark.parametrize("outline", [OUTLINE, ((0, 0), (1, 0), (1, 1), (0, 1))])
def test_a_cut_out_of_nothing_is_no_fault(outline):
    flat = np.full((40, 60, 3), 128, np.uint8)
    assert cut_subject(flat, CutOut(outline=outline)).shape == (40, 60)
    assert cut_subject(flat[:1, :1], CutOut(outline=outline)).shape == (1, 1)


def test_flood_takes_what_hangs_together():
    rgb = np.full((20, 30, 3), 250, np.uint8)
    rgb[:, 10:12] = 20
    rgb[4:6, 20:22] = 128
    near = flooded(rgb, Flood(at=(0.1, 0.5), tolerance=10))
    assert near[:, :10].all()
    assert not near[:, 10:].any()
    everywhere = flooded(rgb, Flood(at=(0.1, 0.5), tolerance=10, touching=False))
    assert everywhere[:, 12:20].all()
    assert not everywhere[4:6, 20:22].any()


def test_flood_against_scikit_image():
    gray = outside.camera()[::4, ::4]
    for x, y, tolerance in ((0.1, 0.1, 20), (0.9, 0.3, 8), (0.5, 0.9, 40)):
        height, width = gray.shape
        found = flooded(np.dstack([gray] * 3), Flood(at=(x, y), tolerance=tolerance))
        seed = int(y * height), int(x * width)
        wanted = segmentation.flood(gray, seed, tolerance=tolerance, connectivity=1)
        assert np.array_equal(found > 0, wanted)


def test_the_split_of_two_levels_is_otsus():
    for gray in (outside.camera(), outside.coins(), outside.page()):
        assert splitting_level(gray) == filters.threshold_otsu(gray)
    pale = np.where(dotted() > 0, 250, 170).astype(np.uint8)
    dots = pipeline_of(pale).dots(KEPT).unpack()
    assert np.array_equal(dots.astype(bool), dotted() == 0)


@pytest.mark.parametrize("softness", [0, 50, 100])
def test_a_brush_is_round_and_fades_as_told(softness):
    plane = stroke_plane(
        Stroke(points=((0.5, 0.5),), size=0.4, softness=softness), 200, 200
    )
    away = np.hypot(*(np.mgrid[0:200, 0:200] + 0.5 - 100))
    hard = 40 * (1 - softness / 100)
    assert (plane[away <= hard - 1] == 1).all()
    assert (plane[away >= 40] == 0).all()
    if softness:
        middle = (hard + 40) / 2
        assert plane[np.abs(away - middle) < 0.6] == pytest.approx(0.5, abs=0.08)


@given(
    keep=st.booleans(),
    kind=st.sampled_from(["brush", "lasso", "flood"]),
    x=st.floats(-0.5, 1.5),
    y=st.floats(-0.5, 1.5),
)
def test_an_edit_only_adds_or_only_takes(keep, kind, x, y):
    rgb = np.random.default_rng(1).integers(0, 256, (30, 40, 3), dtype=np.uint8)
    before = np.random.default_rng(2).integers(0, 256, (30, 40), dtype=np.uint8)
    edit = {
        "brush": lambda: Brush(points=((x, y), (0.5, 0.5)), size=0.2, keep=keep),
        "lasso": lambda: Lasso(points=((x, y), (0.9, 0.1), (0.5, 0.9)), keep=keep),
        "flood": lambda: Flood(at=(x, y), keep=keep),
    }[kind]()
    after = edited(before, edit, rgb)
    assert (after >= before).all() if keep else (after <= before).all()


@pytest.mark.parametrize("dots", [-6.5, -3, 0, 2, 5.25])
def test_growing_moves_the_edge_by_so_many_dots(dots):
    disc = np.hypot(*(np.mgrid[0:200, 0:200] + 0.5 - 100)) <= 50
    found = grown(np.where(disc, 255, 0).astype(np.uint8), dots).astype(float).sum() / 255
    assert np.sqrt(found / np.pi) == pytest.approx(50 + dots, abs=0.35)


def test_feathering_is_as_wide_as_told():
    step = np.zeros((20, 200), np.uint8)
    step[:, 100:] = 255
    soft = feathered(step, 4.0, SizePart(pitch_mm=0.1))[10]
    # half of the width on each side; Gaussian, 2.5 standard deviations
    assert soft[78] <= 3
    assert soft[122] >= 252
    wanted = ndimage.gaussian_filter1d(step[10].astype(float), 8)
    assert np.abs(soft - wanted).max() < 3


@pytest.mark.parametrize("along", [None, 0.05, 0.2])
def test_an_edge_is_moved_in_mm_whatever_a_dot_measures(along):
    """A disc of 5 mm radius in a square of 20 mm, grown by 1.5 mm and softened evenly."""
    size = SizePart(width_mm=20, height_mm=20, pitch_mm=0.1, dot_pitch_mm=along)
    x, y = grid_mm(size)
    disc = np.where(np.hypot(x[None, :], y[:, None]) <= 5, 255, 0).astype(np.uint8)
    found = finished(disc, MaskPart(grow_mm=1.5), size).astype(float).sum() / 255
    area = found * size.cell_mm[0] * size.cell_mm[1]
    assert np.sqrt(area / np.pi) == pytest.approx(6.5, abs=0.06)
    soft = finished(disc, MaskPart(feather_mm=2), size) / 255
    at = x.searchsorted(5.5), y.searchsorted(5.5)
    assert soft[size.rows // 2, at[0]] == pytest.approx(
        soft[at[1], size.cols // 2], abs=0.05
    )


@pytest.mark.parametrize("along", [None, 0.16])
@pytest.mark.parametrize(
    ("frame", "inset", "area"),
    # 40 × 20 mm
    [("rectangle", 0, 800), ("rectangle", 2, 36 * 16), ("rounded", 0, 800 - (4 - np.pi) * 16),
     ("oval", 0, np.pi * 200), ("oval", 3, np.pi * 17 * 7), ("circle", 0, np.pi * 100)],
)  # fmt: skip
def test_frames_have_their_size(frame, inset, area, along):
    size = SizePart(width_mm=40, height_mm=20, pitch_mm=0.1, dot_pitch_mm=along)
    part = MaskPart(frame=frame, frame_inset_mm=inset, corner_mm=4)
    found = frame_mask(part, size).astype(float).sum() / 255 * 0.1 * size.along_mm
    assert found == pytest.approx(area, rel=0.01)
    soft = frame_mask(part.model_copy(update={"vignette_mm": 4.0}), size)
    assert soft.max() == 255
    assert (soft <= frame_mask(part, size)).all()
    assert 0.02 < ((soft > 20) & (soft < 235)).mean() < 0.8


def test_retouching_reaches_pure_white_and_black():
    strokes = Shade(points=((0.5, 0.5),), size=1.0, softness=0, strength=40, lighten=False)
    factor, addend = shaded(unshaded(40, 40), strokes)
    assert factor[20, 20] * 1.0 + addend[20, 20] == pytest.approx(0.6)
    factor, addend = shaded(
        np.stack([factor, addend]), strokes.model_copy(update={"lighten": True})
    )
    # first towards black by 40 %, then towards white by 40 %
    for tone in (0.0, 0.5, 1.0):
        wanted = 0.6 * tone + 0.4 * (1 - 0.6 * tone)
        assert factor[20, 20] * tone + addend[20, 20] == pytest.approx(wanted)
    assert (factor[0, 0], addend[0, 0]) == (1, 0)


# On the whole job


def test_outside_the_mask_nothing_burns(job):
    spec, pipeline = job
    masked = changed(
        spec,
        mask={"edits": [{"kind": "lasso", "keep": False,
                         "points": [[-0.5, -0.5], [0.5, -0.5], [0.5, 1.5], [-0.5, 1.5]]}]},
    )  # fmt: skip
    for polarity in ("darkens", "lightens"):
        spec = changed(masked, substrate={"polarity": polarity})
        dots = pipeline.dots(spec).unpack()
        assert dots[:, :39].sum() == 0
        assert dots[:, 41:].sum() > 300
    swapped = changed(masked, mask={"invert": True})
    assert pipeline.dots(swapped).unpack()[:, 41:].sum() == 0
    off = changed(masked, mask={"on": False})
    assert np.array_equal(pipeline.dots(off).packed, pipeline.dots(job[0]).packed)


def test_strokes_stay_on_the_picture_when_it_is_turned_and_cropped(job):
    """What was erased on the file is erased wherever the file comes to lie."""
    spec, pipeline = job
    edits = [{"kind": "lasso", "points": [[0, 0], [0.5, 0], [0.5, 0.5], [0, 0.5]]}]
    spec = changed(spec, mask={"edits": edits})
    assert pipeline.mask(spec)[:29, :39].max() == 0
    turned = changed(spec, artwork={"turns": 1}, size={"width_mm": 6, "height_mm": 8})
    assert pipeline.mask(turned)[:39, 31:].max() == 0
    assert pipeline.mask(turned)[:, :27].min() == 255
    cropped = changed(
        spec, artwork={"crop": {"left": 0.25, "width": 0.5}}, size={"width_mm": 4}
    )
    assert pipeline.mask(cropped)[:29, :19].max() == 0
    assert pipeline.mask(cropped)[:, 23:].min() == 255


def seen_through(subject=30, under=0):
    """A round subject on a transparent ground whose hidden colour is black."""
    disc = np.hypot(*(np.mgrid[0:120, 0:120] + 0.5 - 60)) <= 40
    gray = np.where(disc, subject, under).astype(np.uint8)
    alpha = np.where(disc, 255, 0).astype(np.uint8)
    artwork = Artwork(gray, "PNG", "gray", None, (), two_level=False, alpha=alpha)
    return disc, Pipeline(InMemorySource(artwork), StageCache(1 << 26))


CLEAR = JobSpec(
    artwork=ArtworkPart(width_px=120, height_px=120),
    size=SizePart(width_mm=6, height_mm=6, pitch_mm=0.1),
)


@pytest.mark.parametrize("polarity", ["darkens", "lightens"])
@pytest.mark.parametrize("under", [0, 255])
def test_a_transparent_ground_does_not_burn_as_a_block(polarity, under):
    disc, pipeline = seen_through(subject=120, under=under)
    spec = changed(CLEAR, substrate={"polarity": polarity})
    dots = pipeline.dots(spec).unpack().astype(bool)
    small = disc.reshape(60, 2, 60, 2).any(axis=(1, 3))
    assert not (dots & ~small).any()
    # The hidden colour does not bleed into the edge either.
    inside = disc.reshape(60, 2, 60, 2).all(axis=(1, 3))
    assert np.abs(pipeline.grid(spec)[inside].astype(int) - 120).max() <= 1
    block = changed(spec, artwork={"ground": "black" if polarity == "darkens" else "white"})
    assert pipeline.dots(block).unpack()[:5].all()


@pytest.mark.parametrize(
    ("subject", "ground", "polarity", "lost"),
    [(252, "unburned", "darkens", True), (60, "unburned", "darkens", False),
     (252, "unburned", "lightens", False), (4, "unburned", "lightens", True),
     (252, "white", "darkens", True), (252, "black", "darkens", False)],
)  # fmt: skip
def test_a_subject_that_melts_into_its_ground_is_reported(subject, ground, polarity, lost):
    _, pipeline = seen_through(subject)
    spec = changed(CLEAR, artwork={"ground": ground}, substrate={"polarity": polarity})
    findings, _ = pipeline.check(spec)
    assert ("subject_stands_out" in [finding.rule for finding in findings]) == lost


def dotted():
    return np.random.default_rng(4).integers(0, 2, (40, 60), dtype=np.uint8) * 255


KEPT = JobSpec(
    artwork=ArtworkPart(width_px=60, height_px=40, keep_dots=True),
    size=SizePart(width_mm=6, height_mm=4, pitch_mm=0.1),
)


@pytest.mark.parametrize("along", [None, 0.05])
@pytest.mark.parametrize("times", [1, 2, 3])
@pytest.mark.parametrize("turns", [0, 1])
def test_kept_dots_burn_one_for_one(times, turns, along):
    width, height = (6, 4) if turns == 0 else (4, 6)
    spec = changed(
        KEPT, artwork={"turns": turns},
        size={"width_mm": width * times * (along or 0.1) / 0.1, "height_mm": height * times, "dot_pitch_mm": along},
        tone={"gamma": 3, "contrast": 40},
    )  # fmt: skip
    dots = pipeline_of(dotted()).dots(spec).unpack()
    wanted = np.rot90(dotted() == 0, -turns).repeat(times, 0).repeat(times, 1)
    assert np.array_equal(dots.astype(bool), wanted)


@pytest.mark.parametrize(
    "parts",
    [{"size": {"width_mm": 7, "height_mm": 4.667}}, {"size": {"width_mm": 12}},
     {"artwork": {"straighten_deg": 1}}],
)  # fmt: skip
def test_what_would_break_the_grid_of_dots_is_refused(parts):
    data = KEPT.model_dump(mode="json")
    for part, values in parts.items():
        data[part].update(values)
    import json

    with pytest.raises(
        JobError, match=r"whole multiple of 6\.00 × 4\.00 mm|only be turned"
    ):
        JobSpec.from_json(json.dumps(data))


def test_mirrored_only_on_its_way_to_the_machine(job):
    spec, pipeline = job
    back = changed(spec, side={"seen_from": "back"})
    assert np.array_equal(pipeline.dots(back).packed, pipeline.dots(spec).packed)
    wanted = pipeline.dots(spec).unpack()[:, ::-1]
    assert np.array_equal(pipeline.burned(back).unpack(), wanted)


def test_a_printing_plate_keeps_what_shall_print(job):
    """Black letters and the border stay raised: nothing of them burns."""
    spec, pipeline = job
    plate = changed(spec, side={"printing_plate": True}, border={"on": True, "width_mm": 0.5},
                    tone={"contrast": 100})  # fmt: skip
    assert pipeline.dots(plate).unpack()[:5].sum() == 0
    plain = changed(plate, side={"printing_plate": False})
    assert pipeline.dots(plain).unpack()[:5].all()
    inner = np.s_[8:-8, 8:-8]
    assert np.array_equal(
        pipeline.dots(plate).unpack()[inner], 1 - pipeline.dots(plain).unpack()[inner]
    )


def test_colour_decides_only_where_it_is_asked(job):
    rgb = outside.chelsea()[:60, :80]
    artwork = Artwork(
        luminance_codes(rgb), "PNG", "colour", None, (), two_level=False, colour=rgb
    )
    pipeline = Pipeline(InMemorySource(artwork), StageCache(1 << 26))
    spec, _ = job
    assert np.array_equal(pipeline.grid(spec), luminance_codes(rgb))
    red = changed(spec, artwork={"mix": {"red": 100, "green": 0, "blue": 0}})
    assert np.array_equal(pipeline.grid(red), rgb[..., 0])


def test_a_mask_starts_whole():
    assert whole(3, 2).tolist() == [[255] * 3] * 2
