"""The proof: spot geometry, averages in linear light, colours."""

import io

import cv2
import numpy as np
import pytest
from PIL import Image
from pydantic import ValidationError
from scipy.stats import norm
from skimage import data
from skimage.metrics import structural_similarity

from engraving.colour.light import to_coded, to_linear
from engraving.colour.lightness import lightness
from engraving.dots import METHODS, BitGrid, make_dots
from engraving.jobspec import (
    ArtworkPart,
    DotsPart,
    JobSpec,
    ReproductionPart,
    SubstratePart,
)
from engraving.proof import (
    MaterialResponse,
    Window,
    dot_palette,
    framed_dots,
    shown_dots,
    shown_marks,
    shown_tones,
    spot_model,
    substrate_palette,
)
from engraving.proof.averaging import averaged_marks
from engraving.proof.reproduction import effective_share
from engraving.recipe import spot_on_surface_mm
from support.jobs import changed, pipeline_of

GAUSS = 2.2
BELL, DISC = MaterialResponse("gaussian", GAUSS), MaterialResponse("disc")


def png_of(pipeline, spec):
    stream = io.BytesIO()
    pipeline.write_proof(spec, stream)
    return stream.getvalue()


def framed(dots, model):
    return np.pad(dots, [(reach, reach) for reach in model.frame])


def checkerboard(n):
    return (np.indices((n, n)).sum(axis=0) % 2).astype(np.uint8)


class TestDisc:
    """Union of stadia swept by a disc of diameter d (in pitches), by plane geometry.

    A single dot covers d + πd²/4 cells; polygon values for the checkerboard.
    """

    def marks(self, dots, ratio):
        model = spot_model(ratio, DISC)
        return model.marks(framed(dots, model)) / 65535

    @pytest.mark.parametrize("ratio", [0.8, 1.0])
    def test_single_dot(self, ratio):
        dots = np.zeros((7, 9), np.uint8)
        dots[3, 4] = 1
        area = ratio + np.pi * ratio**2 / 4
        assert self.marks(dots, ratio).sum() == pytest.approx(area, abs=0.03)

    @pytest.mark.parametrize(("ratio", "share"), [(1.0, 0.892689), (1.27, 1.0)])
    def test_checkerboard(self, ratio, share):
        inner = self.marks(checkerboard(20), ratio)[4:-4, 4:-4]
        assert inner.mean() == pytest.approx(share, abs=0.01)

    def test_full_rows_at_every_second_row(self):
        dots = np.zeros((20, 20), np.uint8)
        dots[::2] = 1
        assert self.marks(dots, 1.0)[4:-4, 4:-4].mean() == pytest.approx(0.5, abs=0.01)

    @pytest.mark.parametrize("long", [0.5, 2.0, 4.0])
    def test_a_dot_longer_or_shorter_than_the_rows_are_apart(self, long):
        """A single dot covers l·d + πd²/4 in row pitches, where l is its length."""
        dots = np.zeros((7, 13), np.uint8)
        dots[3, 6] = 1
        model = spot_model(0.9, DISC, long)
        marks = model.marks(framed(dots, model)) / 65535
        assert marks.sum() * long == pytest.approx(
            long * 0.9 + np.pi * 0.81 / 4, abs=0.03 * long
        )


PULSES = {
    1.0: (0.785398, 0.392699, 0.196350), 1.27: (1.266769, 0.633384, 0.316692),
    1.414: (1.570322, 0.785161, 0.392580), 1.6: (2.010619, 0.911490, 0.502655),
}  # fmt: skip


class TestPulses:
    """A disc in the middle of each burned dot; exact lens geometry, pitch 1.

    Single dot πd²/4; checkerboard (πd²/4 - 2·lens(d/2, √2))/2; every second
    row and column. Agreed with polygon areas to 3e-5.
    """

    @pytest.mark.parametrize("ratio", PULSES)
    def test_coverage(self, ratio):
        model = spot_model(ratio, MaterialResponse("disc", pulsed=True))
        single = np.zeros((9, 9), np.uint8)
        single[4, 4] = 1
        quarter = np.zeros((24, 24), np.uint8)
        quarter[::2, ::2] = 1
        marks = [
            model.marks(framed(d, model)) / 65535
            for d in (single, checkerboard(24), quarter)
        ]
        found = marks[0].sum(), marks[1][4:-4, 4:-4].mean(), marks[2][4:-4, 4:-4].mean()
        assert found == pytest.approx(PULSES[ratio], rel=0.01)


class TestAnswer:
    def test_onset_exposure_and_scorch(self):
        energy = np.array([0, 0.1, 0.2, 0.5, 1.0, 2.0, 4.0], np.float32)
        plain = MaterialResponse().marks(energy) / 65535
        assert plain[0] == 0
        assert plain[4] == plain[6] == 1
        assert (np.diff(plain[:5]) > 0).all()
        assert plain[3] == pytest.approx((1 - np.exp(-1.1)) / (1 - np.exp(-2.2)), abs=1e-4)
        late = MaterialResponse(onset=0.2).marks(energy)
        assert late[:3].tolist() == [0, 0, 0]
        assert late[4] == 65535
        half = MaterialResponse(exposure=0.5).marks(energy)
        assert half[5] == 65535
        assert half[4] == MaterialResponse().marks(np.array([0.5], np.float32))[0]
        scorched = MaterialResponse(scorch_from=2.0).marks(energy) / 65535 * 2
        assert scorched[:5] == pytest.approx(plain[:5], abs=1e-4)
        assert scorched[5:].tolist() == pytest.approx([1, 2], abs=1e-4)


class TestReproduction:
    def test_murray_davies_and_yule_nielsen(self):
        """Densities of tint, solid, paper; worked values agreed by two implementations."""
        assert effective_share(0.30, 1.40, 0) == pytest.approx(0.519494, abs=1e-6)
        assert effective_share(0.60, 1.60, 0.10, 2) == pytest.approx(0.532320, abs=1e-6)
        assert effective_share(0.25, 1.20, 0.05, 1.7) == pytest.approx(0.300623, abs=1e-6)

    def test_lightness(self):
        """CIE L* of luminances, published constants."""
        found = lightness(np.array([0.001, 0.01, 0.1841865, 0.5, 1]))
        assert found == pytest.approx([0.903296, 8.991442, 50, 76.069261, 100], abs=1e-4)

    def test_linear_light_makes_code_128_a_fifth_white(self, job):
        """Code 128 is 21.6 % of the light."""
        spec, pipeline = job
        spec = changed(spec, reproduction={"mode": "linear"})
        table = pipeline.reproduction(spec)
        assert table[128] / 255 == pytest.approx(0.2158605, abs=0.002)
        light = changed(spec, substrate={"polarity": "lightens"})
        assert pipeline.reproduction(light)[128] / 255 == pytest.approx(
            1 - 0.2158605, abs=0.002
        )

    @pytest.mark.parametrize("plate", [False, True])
    @pytest.mark.parametrize("polarity", ["darkens", "lightens"])
    def test_every_table_runs_one_way_from_end_to_end(self, job, polarity, plate):
        spec, pipeline = job
        look = {"polarity": polarity}
        if polarity == "lightens":
            look |= {"ground": "#202020", "mark": "#d0d0d0"}
        spec = changed(spec, substrate=look, side={"printing_plate": plate})
        for mode, patches in (
            ("linear", ()),
            ("spot", ()),
            ("measured", MEASURED[polarity]),
        ):
            spec = changed(spec, reproduction={"mode": mode, "patches": patches})
            table = pipeline.reproduction(spec).astype(int)
            step = np.diff(table)
            assert (step >= 0).all() if spec.burns_dark else (step <= 0).all()
            assert {table[0], table[-1]} == {0, 255}

    def test_measured_patches_are_met(self, job):
        """Asked for the lightness of a patch, its own share of dots comes out."""
        spec, pipeline = job
        patches = MEASURED["darkens"]
        spec = changed(spec, reproduction={"mode": "measured", "patches": patches})
        table = pipeline.reproduction(spec)
        code = np.arange(256) / 255
        linear = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)
        light = patches[-1][1] + (patches[0][1] - patches[-1][1]) * lightness(linear) / 100
        for share, wanted in patches:
            asked = 1 - table[np.argmin(np.abs(light - wanted))] / 255
            assert asked == pytest.approx(share / 100, abs=0.012)

    def test_patches_out_of_order_are_refused(self):
        for bad in (((50, 20),), ((10, 20), (10, 30)), ((50, 30), (20, 60))):
            with pytest.raises(ValidationError, match="larger burned share"):
                ReproductionPart(patches=bad)
        with pytest.raises(ValidationError, match="no measured patches yet"):
            ReproductionPart(mode="measured")


MEASURED = {
    "darkens": ((0, 78), (10, 66), (25, 52), (50, 38), (75, 28), (100, 24)),
    "lightens": ((0, 14), (10, 31), (25, 47), (50, 62), (75, 71), (100, 76)),
}


class TestGaussian:
    @pytest.mark.parametrize("ratio", [0.5, 1.0, 1.6, 2.0, 3.0])
    def test_a_solid_is_fully_marked_and_nothing_not_at_all(self, ratio):
        model = spot_model(ratio, BELL)
        solid = np.ones((20, 20), np.uint8)
        inner = model.marks(framed(solid, model))[6:-6, 6:-6] / 65535
        # a spot no wider than the pitch leaves gaps between the rows
        assert (inner.mean() > 0.99) == (ratio > 1.2)
        assert not model.marks(framed(np.zeros((9, 9), np.uint8), model)).any()

    @pytest.mark.parametrize(
        ("ratio", "along"), [(0.6, 1), (1.2, 1), (1.9, 1), (1.2, 0.6), (1.2, 1.8)]
    )
    def test_the_table_equals_integrating_every_dot(self, ratio, along):
        """Energy of each dot summed on a fine grid, without the table."""
        dots = (np.random.default_rng(3).random((12, 14)) < 0.5).astype(np.uint8)
        fine, sigma, sigma_x = 16, ratio / 4, ratio / along / 4
        y = (np.arange(12 * fine) + 0.5) / fine - 0.5
        x = (np.arange(14 * fine) + 0.5) / fine - 0.5
        sub = (np.arange(32) + 0.5) / 32 - 0.5
        energy = np.zeros((len(y), len(x)))
        for row, col in zip(*np.nonzero(dots), strict=True):
            swept = np.exp(-((x[:, None] - col - sub) ** 2) / (2 * sigma_x**2)).mean(axis=1)
            down = np.exp(-((y - row) ** 2) / (2 * sigma**2))
            energy += np.outer(down, swept) / (2 * np.pi * sigma * sigma_x)
        mark = np.minimum((1 - np.exp(-GAUSS * energy)) / (1 - np.exp(-GAUSS)), 1)
        cells = mark.reshape(12, fine, 14, fine).mean(axis=(1, 3))
        model = spot_model(ratio, BELL, along)
        found = model.marks(framed(dots, model)) / 65535
        # the table leaves out dots farther than one row or two columns
        assert np.abs(found - cells).max() < 0.016
        near = model.marks_within(framed(dots, model)) / 65535
        assert near.shape == (48, 56)
        assert np.abs(near.reshape(12, 4, 14, 4).mean(axis=(1, 3)) - cells).max() < 0.04

    @pytest.mark.parametrize(
        ("dots_", "pixels"), [((100, 90), (33, 30)), ((101, 97), (40, 55)), ((64, 64), (32, 64)),
                              ((7, 9), (3, 2)), ((30, 30), (29, 1)), ((50, 50), (50, 50))],
    )  # fmt: skip
    def test_pixels_are_exact_area_averages_of_the_marks(self, dots_, pixels):
        """By a plain matrix of shares, one a side."""

        def shares(count, into):
            wide = count / into
            low, high = (
                np.arange(into)[:, None] * wide,
                (np.arange(into)[:, None] + 1) * wide,
            )
            x = np.arange(count)[None, :]
            return np.clip(np.minimum(high, x + 1) - np.maximum(low, x), 0, None) / wide

        dots = (np.random.default_rng(1).random(dots_) < 0.4).astype(np.uint8)
        model = spot_model(1.2, BELL)
        marks = model.marks(framed(dots, model)).astype(float)
        exact = shares(dots_[0], pixels[0]) @ marks @ shares(dots_[1], pixels[1]).T
        whole = (0, 0, dots_[1], dots_[0])
        found = averaged_marks(BitGrid.from_dots(dots), whole, pixels[::-1], model.cells)
        assert np.abs(found - exact).max() < 0.52

    def test_wider_spots_mark_more(self):
        dots = (np.random.default_rng(3).random((40, 40)) < 0.3).astype(np.uint8)
        models = [spot_model(r, BELL) for r in (0.5, 1, 1.9, 3)]
        shares = [one.marks(framed(dots, one)).mean() for one in models]
        assert shares == sorted(shares)


class TestViews:
    def test_from_afar_a_pixel_is_the_mean_of_its_light(self):
        """Half the codes 0, half 255: mean light 0.5 is code 187.5."""
        codes = checkerboard(64) * np.uint8(255)
        shown = shown_tones(codes, Window(0, 0, 64, 64, 10, 10))
        assert np.abs(shown.astype(float) - to_coded(np.array(0.5)) * 255).max() <= 1.5

    def test_dots_far_apart_one_way_are_averaged_the_other(self):
        """Every second column black, shown with half as many columns but all rows twice."""
        bits = BitGrid.from_dots(np.tile([0, 1], (16, 32)).astype(np.uint8))
        shown = shown_dots(bits, Window(0, 0, 64, 16, 32, 32), dot_palette("darkens"))
        assert shown.shape == (16, 32, 3)
        assert np.ptp(shown.astype(int), axis=(0, 1)).max() <= 1

    @pytest.mark.parametrize(
        "method", ["floyd-steinberg", "bayer", "round", "square", "wavy"]
    )
    @pytest.mark.parametrize("shrink", [1.03, 1.9, 3.37, 7.3])
    def test_the_proof_from_afar_shows_no_moire(self, method, shrink):
        """Blurred alike, a picture from afar and the marks themselves are the same light.

        Whatever differs is a pattern the burned piece does not have. Picking
        dots out of the grid, which is what lies, is held beside it.
        """
        side, soft = 900, 4.0
        settings = DotsPart(method=method, angle_deg=20)
        bits = make_dots(np.full((side, side), 127, np.uint8), settings)
        spot = spot_model(1.2, BELL)
        grays = substrate_palette(SubstratePart(ground="#ffffff", mark="#000000"))
        light = 1 - spot.marks(
            framed_dots(bits, (0, 0, side, side), spot.frame)
        ) / np.float32(65535)
        small = round(side / shrink)
        shown = shown_marks(bits, Window(0, 0, side, side, small, small), spot, grays)
        seen = to_linear(shown[..., 0] / 255).astype(np.float32)
        picked = light[np.ix_(*[np.arange(small) * side // small] * 2)]
        truth = cv2.resize(cv2.GaussianBlur(light, (0, 0), soft * shrink), (small, small))
        off = [
            np.abs(to_coded(cv2.GaussianBlur(one, (0, 0), soft)) - to_coded(truth))[
                20:-20, 20:-20
            ]
            for one in (seen, np.ascontiguousarray(picked))
        ]
        assert 255 * off[0].max() < 0.8
        assert 255 * off[1].max() > 0.3 if method == "bayer" else 255 * off[1].max() > 1.5

    def test_beyond_the_grid_is_white_and_unburned(self):
        codes = np.zeros((4, 4), np.uint8)
        assert shown_tones(codes, Window(-4, 0, 4, 4, 4, 4)).min() == 255
        bits = BitGrid.from_dots(np.ones((4, 4), np.uint8))
        shown = shown_dots(bits, Window(4, 4, 4, 4, 4, 4), dot_palette("darkens"))
        assert (shown == shown[0, 0]).all()

    def test_dots_near_are_true(self):
        dots = (np.random.default_rng(0).random((9, 11)) < 0.5).astype(np.uint8)
        shown = shown_dots(
            BitGrid.from_dots(dots), Window(0, 0, 11, 9, 88, 72), dot_palette("darkens")
        )
        assert np.array_equal(shown[..., 0] < 128, dots.astype(bool))

    def test_the_share_of_marks_does_not_depend_on_the_distance(self):
        dots = (np.random.default_rng(0).random((96, 96)) < 0.4).astype(np.uint8)
        bits, spot = BitGrid.from_dots(dots), spot_model(1.2, BELL)
        grays = substrate_palette(SubstratePart(ground="#ffffff", mark="#000000"))
        sizes = (12, 48, 96, 192, 384)
        light = []
        for size in sizes:
            shown = shown_marks(bits, Window(0, 0, 96, 96, size, size), spot, grays)
            codes = shown[..., 0].astype(float) / 255
            light.append(
                np.where(
                    codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4
                ).mean()
            )
        assert np.ptp(light) < 0.01

    def test_colours_mix_in_light(self):
        palette = substrate_palette(SubstratePart(ground="#ffffff", mark="#000000"))
        half = palette.paint(np.full((1, 1), 32767, np.uint16))[0, 0]
        assert half.tolist() == [188, 188, 188]


class TestSeenFromAfar:
    """Structural similarity (scikit-image) of dots seen from afar to the picture.

    The eye's blur is a Gaussian of three dots, arm's length at 0.1 mm. Tables
    that spread error wide trade a little likeness for smoothness, and
    six-eighths changes tones, so only tables of Floyd-Steinberg's reach can
    match the peer; none falls far behind it.
    """

    SMALL = ("floyd-steinberg", "sierra-lite", "ostromoukhov")

    @staticmethod
    def likeness(white, gray):
        def eye(x):
            return cv2.GaussianBlur(x.astype(np.float32), (0, 0), 3)

        return structural_similarity(eye(white * 255.0), eye(gray), data_range=255)

    @pytest.mark.parametrize("name", ["camera", "coffee", "chelsea", "astronaut"])
    def test_likeness_to_the_picture_beside_pillows(self, name):
        gray = np.asarray(Image.fromarray(getattr(data, name)()).convert("L"))
        peer = self.likeness(np.asarray(Image.fromarray(gray).convert("1")), gray)
        assert peer > 0.99
        for method in (m for m in METHODS.values() if m.family == "diffusion"):
            dots = make_dots(gray, DotsPart(method=method.name))
            behind = peer - self.likeness(1 - dots.unpack(), gray)
            if method.name in self.SMALL:
                assert behind < 0.001, method.name
            elif method.name != "atkinson":
                assert behind < 0.025, method.name


def integrated(dots, ratio, along, pulsed=False):
    """Mean marks of all cells: every dot's energy in closed form, on a fine grid."""
    rows, cols = dots.shape
    sigmas = ratio / 4, ratio / along / 4
    parts = [int(min(max(8, np.ceil(3 / sigma)), 72)) for sigma in sigmas]
    y, x = (
        (np.arange(n * k) + 0.5) / k - 0.5 for n, k in zip((rows, cols), parts, strict=True)
    )
    off = x[:, None] - np.arange(cols)
    down = norm.pdf(y[:, None], np.arange(rows), sigmas[0])
    swept = norm.cdf((off + 0.5) / sigmas[1]) - norm.cdf((off - 0.5) / sigmas[1])
    across = norm.pdf(off, 0, sigmas[1]) if pulsed else swept
    energy = down @ dots.astype(float) @ across.T
    mark = np.minimum((1 - np.exp(-GAUSS * energy)) / (1 - np.exp(-GAUSS)), 1)
    return mark.reshape(rows, parts[0], cols, parts[1]).mean(axis=(1, 3))


DOTS = {
    "random": (np.random.default_rng(3).random((24, 28)) < 0.4).astype(np.uint8),
    "sparse": (np.random.default_rng(4).random((24, 28)) < 0.08).astype(np.uint8),
    "checks": np.tile([[1, 0], [0, 1]], (12, 14)).astype(np.uint8),
    "rows": np.tile([[1], [1], [0]], (8, 28)).astype(np.uint8),
}
RATIOS = [0.2, 0.3, 0.5, 0.8, 1.0, 1.4, 1.99, 2.0, 2.01, 2.5, 3.5, 5, 8, 10]


class TestHeldToIntegration:
    """Within 0.005 of exact integration, spot over pitch from 0.2 to 10."""

    @pytest.mark.parametrize("ratio", RATIOS)
    @pytest.mark.parametrize("name", DOTS)
    @pytest.mark.parametrize("power", [False, True])
    def test_all_spots(self, ratio, name, power):
        model, dots = spot_model(ratio, BELL), DOTS[name]
        given = dots.astype(np.float32) if power else dots
        found = model.marks(framed(given, model)) / 65535
        assert np.abs(found - integrated(dots, ratio, 1)).max() < 0.005

    @pytest.mark.parametrize(
        ("ratio", "along"), [(1, 0.32), (1, 0.25), (0.8, 0.2), (2.5, 0.6), (0.9, 2), (3, 3)]
    )
    def test_dots_shorter_and_longer_than_rows_are_apart(self, ratio, along):
        """A third of the spot long, rows a spot apart: ridges between the rows are seen."""
        model, dots = spot_model(ratio, BELL, along), DOTS["random"]
        found = model.marks(framed(dots, model)) / 65535
        assert np.abs(found - integrated(dots, ratio, along)).max() < 0.006

    @pytest.mark.parametrize("ratio", [1.2, 2.5, 8])
    def test_a_window_has_its_neighbours(self, ratio):
        """A part of the grid looks as the whole does there."""
        model, bits = spot_model(ratio, BELL), BitGrid.from_dots(DOTS["random"])
        whole = model.marks(framed_dots(bits, (0, 0, 28, 24), model.frame))
        part = model.marks(framed_dots(bits, (5, 7, 9, 6), model.frame))
        assert np.abs(part.astype(int) - whole[7:13, 5:14]).max() <= 1

    def test_close_looks_have_the_mean_of_far_ones(self):
        for ratio in (0.9, 2.6, 7):
            model, dots = spot_model(ratio, BELL), DOTS["random"]
            near = model.marks_within(framed(dots, model)) / 65535
            mean = near.reshape(24, 4, 28, 4).mean(axis=(1, 3))
            assert np.abs(mean - integrated(dots, ratio, 1)).max() < 0.03


class TestDefocusAndRise:
    """The proof follows the focus and the beam's rise time, by the optics' own formulas."""

    def spec(self, **parts):
        base = JobSpec(
            artwork=ArtworkPart(width_px=40, height_px=40),
            size={"width_mm": 4, "height_mm": 4, "pitch_mm": 0.1},
            machine={"spot_mm": 0.12, "wavelength_um": 10.6},
            dots={"method": "threshold"},
        )
        return changed(base, **parts)

    @pytest.mark.parametrize("off", [0.0, 0.5, -1.0, 3.0, 10.0])
    def test_out_of_focus_the_spot_is_wider(self, off):
        """d·√(1 + (z/zR)²), zR = π·d²/(4·M²·λ) (ISO 11146's terms)."""
        reach = np.pi * 0.12**2 / (4 * 0.0106)
        wide = 0.12 * np.sqrt(1 + (off / reach) ** 2)
        spec = self.spec(burn={"focus_mm": off})
        assert spot_on_surface_mm(spec) == pytest.approx(wide)
        model = pipeline_of(np.zeros((40, 40), np.uint8)).spot(spec)
        assert model.ratio == pytest.approx(wide / 0.1, rel=1e-5)

    def test_a_lens_whose_depth_was_measured_goes_by_it(self):
        lens = {"name": "Two", "focal_mm": 50, "spot_mm": 0.12, "depth_mm": 3.0}
        spec = self.spec(machine={"lenses": [lens], "lens": "Two"}, burn={"focus_mm": 1.5})
        assert spot_on_surface_mm(spec) == pytest.approx(0.12 * np.sqrt(2))

    def test_each_step_out_of_focus_is_seen(self):
        picture = np.zeros((40, 40), np.uint8)
        picture[:, ::2] = 255
        pipeline, seen = pipeline_of(picture), set()
        for off in range(11):
            seen.add(png_of(pipeline, self.spec(burn={"focus_mm": off})))
        assert len(seen) == 11

    @pytest.mark.parametrize("smear", [0.3, 1.0, 2.5])
    def test_starts_and_ends_of_runs_are_softened(self, smear):
        """A beam that rises evenly over a way: the stroke's energy is a trapezium along it."""
        model, dots = spot_model(0.9, BELL, 1.0, smear), np.zeros((5, 30), np.uint8)
        dots[2, 8:20] = 1
        found = model.marks(framed(dots, model)) / 65535
        fine = 40
        x = (np.arange(30 * fine) + 0.5) / fine - 0.5
        sent = np.repeat(dots[2], fine).astype(float)
        box = np.clip(smear * fine / 2 + 0.5 - np.abs(np.arange(-80, 81)), 0, 1)
        given = np.convolve(sent, box / box.sum(), "same")
        along = np.array([(given * norm.pdf(x, at, 0.225)).sum() / fine for at in x])
        y = (np.arange(5 * fine) + 0.5) / fine - 0.5
        energy = np.outer(norm.pdf(y, 2, 0.225), along)
        mark = np.minimum((1 - np.exp(-GAUSS * energy)) / (1 - np.exp(-GAUSS)), 1)
        wanted = mark.reshape(5, fine, 30, fine).mean(axis=(1, 3))
        assert np.abs(found - wanted).max() < 0.01
        sharp = spot_model(0.9, BELL)
        assert found[2, 7] > (sharp.marks(framed(dots, sharp)) / 65535)[2, 7]

    def test_the_pipeline_takes_it_from_the_machine(self):
        pipeline = pipeline_of(np.zeros((40, 40), np.uint8))
        slow = self.spec(machine={"response_ms": 0.5}, burn={"speed_mm_s": 100})
        assert pipeline.spot(slow).smear == pytest.approx(0.5)
        quick = self.spec(burn={"speed_mm_s": 100})
        assert png_of(pipeline, slow) != png_of(pipeline, quick)

    @pytest.mark.parametrize(
        "parts",
        [{"burn": {"focus_mm": 3}}, {"machine": {"response_ms": 1.0}},
         {"machine": {"response_ms": 1.0}, "burn": {"speed_mm_s": 50}},
         {"machine": {"spot_mm": 0.2}}, {"machine": {"spot_shape": "disc"}}],
    )  # fmt: skip
    def test_tones_by_spot_are_of_the_beam_as_it_is_now(self, parts):
        """What was asked before, of another beam, is not given again."""
        picture = np.zeros((40, 40), np.uint8)
        warm, before = pipeline_of(picture), self.spec(reproduction={"mode": "spot"})
        after = changed(before, dots={"method": "jarvis"}, **parts)
        before = changed(before, dots={"method": "jarvis"})
        was, now = warm.reproduction(before), warm.reproduction(after)
        cold = pipeline_of(picture).reproduction(after)
        assert (now == cold).all()
        assert (now != was).any()
