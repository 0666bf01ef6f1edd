"""Job descriptions, job files, and the command line."""

import contextlib
import io
import json
import os
import subprocess
import sys
import zipfile
from contextlib import redirect_stderr, redirect_stdout, suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from engraving import __main__ as command_line
from engraving.errors import EngravingError, JobError
from engraving.jobspec import ArtworkPart, JobSpec, MachinePart, interpolate_specs
from engraving.jobspec.job_file import job_json, read_job_file, read_job_zip, write_job_zip
from support.jobs import changed, png

SOURCE = Path(__file__).resolve().parents[2] / "src"


@dataclass
class Ran:
    """What a command gave back."""

    returncode: int
    stdout: str
    stderr: str


def run(*arguments, cwd):
    """Run the command line in this process, as `main` runs it."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.chdir(cwd), redirect_stdout(out), redirect_stderr(err):
        status = command_line.main([str(one) for one in arguments])
    return Ran(status, out.getvalue(), err.getvalue())


def test_the_command_line_is_a_module(folder):
    """In a process of its own: a sentence, and the status that scripts look at."""
    ran = subprocess.run(
        [sys.executable, "-m", "engraving", "dots", "none.png", "x.png"],
        cwd=folder, capture_output=True, text=True, check=False,
        env={**os.environ, "PYTHONPATH": str(SOURCE)},
    )  # fmt: skip
    assert (ran.returncode, ran.stdout) == (2, "")
    assert "Traceback" not in ran.stderr
    assert "none.png" in ran.stderr


@pytest.fixture
def folder(tmp_path, scene):
    (tmp_path / "art.png").write_bytes(png(scene, dpi=(254, 254)))
    return tmp_path


def test_json_round_trip(job):
    spec, _ = job
    assert JobSpec.from_json(job_json(spec)) == spec


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "job"), ("[]", "job"), ("{", "job"), ('{"version": 3}', "version"),
        ('{"size": {"width_mm": -5}}', r"size.width_mm.*greater than 0"),
        ('{"size": {"width_mm": NaN}}', "job|width_mm"), ('{"size": {"width_mm": 4000000}}', "width_mm"),
        ('{"burn": {"power": "much"}}', "burn.power"), ('{"unknown": 1}', "unknown"),
        ('{"size": {"width_mm": 3000, "height_mm": 3000, "pitch_mm": 0.01}}', "more than this"),
    ],
)  # fmt: skip
def test_what_is_no_job_gets_a_sentence(text, words):
    with pytest.raises(JobError, match=words) as caught:
        JobSpec.from_json(text)
    assert caught.value.message.endswith(".")


def test_zip_round_trip_and_damage(job, scene, tmp_path):
    spec, _ = job
    stream = io.BytesIO()
    write_job_zip(stream, spec, png(scene))
    found = read_job_zip(io.BytesIO(stream.getvalue()))
    assert (found.spec, found.picture, found.fonts) == (spec, png(scene), {})
    cut = tmp_path / "cut.zip"
    cut.write_bytes(stream.getvalue()[:-30])
    with pytest.raises(JobError):
        read_job_file(cut)
    empty = tmp_path / "empty.zip"
    zipfile.ZipFile(empty, "w").close()
    with pytest.raises(JobError, match=r"job\.json"):
        read_job_file(empty)


def test_no_path_leads_out_of_the_folder(job, tmp_path):
    spec, _ = job
    (tmp_path / "secret").write_text("x")
    inner = tmp_path / "inner"
    inner.mkdir()
    path = inner / "job.json"
    path.write_text(job_json(changed(spec, artwork={"file": "../secret"})))
    assert read_job_file(path).picture is None


def test_dots_from_the_command_line_leave_the_grays_untouched(folder, scene, job):
    done = run("dots", "art.png", "out.png", "--width", "8mm", cwd=folder)
    assert (done.returncode, done.stderr) == (0, "")
    spec, pipeline = job
    image = Image.open(folder / "out.png")
    assert image.mode == "1"
    assert image.info["dpi"] == pytest.approx((254, 254))
    burned = ~np.asarray(image)
    assert np.array_equal(burned, pipeline.dots(spec).unpack().astype(bool))
    assert burned.mean() == pytest.approx(1 - scene.mean() / 255, abs=0.01)


def test_screens_tones_and_auto_tone_from_the_command_line(folder, scene, job):
    done = run("dots", "art.png", "out.png", "--width", "8mm", "--method", "round", "--ruling", "8",
               "--angle", "30", "--tones", "spot", cwd=folder)  # fmt: skip
    assert (done.returncode, done.stderr) == (0, "")
    spec, pipeline = job
    spec = changed(spec, dots={"method": "round", "ruling_cm": 8, "angle_deg": 30},
                   reproduction={"mode": "spot"}, substrate={"ground": "#ffffff", "mark": "#000000"})  # fmt: skip
    burned = ~np.asarray(Image.open(folder / "out.png"))
    assert np.array_equal(burned, pipeline.dots(spec).unpack().astype(bool))
    assert (
        run(
            "dots", "art.png", "auto.png", "--width", "8mm", "--auto-tone", cwd=folder
        ).returncode
        == 0
    )
    plain = np.asarray(Image.open(folder / "auto.png"))
    assert not np.array_equal(plain, ~burned)


def test_lightens_burns_the_negative(folder, scene):
    Image.fromarray(255 - scene).save(folder / "negative.png")
    for name, polarity in (("art", "lightens"), ("negative", "darkens")):
        assert run("dots", f"{name}.png", f"{name}-out.png", "--width", "8mm", "--polarity", polarity,
                   cwd=folder).returncode == 0  # fmt: skip
    one, two = (
        np.asarray(Image.open(folder / f"{n}-out.png")) for n in ("art", "negative")
    )
    assert np.array_equal(one, two)


def test_gcode_and_estimate(folder):
    made = run("gcode", "art.png", "out.gcode", "--width", "8mm", "--x", "12mm", "--y", "5mm", "--beam", "M4",
               "--s-max", "255", "--one-way", cwd=folder)  # fmt: skip
    assert made.returncode == 0
    text = (folder / "out.gcode").read_text()
    assert "M4 S0" in text
    assert "S102" in text
    told = json.loads(run("estimate", "out.gcode", "--accel", "3000", cwd=folder).stdout)
    assert {"seconds", "burn_mm", "travel_mm", "rows", "moves", "bounds_mm"} <= set(told)
    assert told["rows"] == 60
    assert told["burn_bounds_mm"] == pytest.approx([12, 5.05, 20, 10.95])
    stops = json.loads(run("estimate", "out.gcode", "--junction", "0", cwd=folder).stdout)
    assert stops["seconds"] > told["seconds"]
    (folder / "wall.gcode").write_text("G21 G90\nG1 A360 F137.5099\n")
    wall = run("estimate", "wall.gcode", "--diameter", "50mm", cwd=folder)
    assert json.loads(wall.stdout)["seconds"] == pytest.approx(50 * np.pi, rel=1e-3)
    for bad in (["--junction", "-1mm"], ["--diameter", "0"]):
        refused = run("estimate", "out.gcode", *bad, cwd=folder)
        assert (refused.returncode, refused.stderr.count("\n")) == (2, 1)


def test_whole_jobs_and_batches(folder, scene, job):
    spec, pipeline = job
    for name in ("one", "two"):
        with (folder / f"{name}.zip").open("wb") as stream:
            write_job_zip(stream, changed(spec, artwork={"file": "art.png"}), png(scene))
    done = run("job", "one.zip", "two.zip", "--dots", "d.png", "--gcode", "g.gcode", "--proof", "p.png",
               "--toned", "t.png", "--report", "r.json", cwd=folder)  # fmt: skip
    assert done.stderr == ""
    for name in ("one", "two"):
        dots = ~np.asarray(Image.open(folder / f"{name}-d.png"))
        assert np.array_equal(dots, pipeline.dots(spec).unpack().astype(bool))
        report = json.loads((folder / f"{name}-r.json").read_text())
        assert report["estimate"]["seconds"] == pytest.approx(
            pipeline.estimate(spec).seconds
        )
    checked = json.loads(run("check", "one.zip", cwd=folder).stdout)
    assert {item["rule"] for item in checked["findings"] + checked["fine"]} >= {
        "something_to_burn"
    }
    (folder / "job.json").write_text(job_json(spec))
    assert "findings" in json.loads(run("check", "job.json", cwd=folder).stdout)


@pytest.mark.parametrize(
    "arguments",
    [
        ["dots", "nothing.png", "o.png"], ["dots", "art.png", "o.png", "--dpi", "0"],
        ["dots", "art.png", "o.png", "--width", "4km"], ["dots", "art.png", "o.png", "--width", "-1"],
        ["dots", "art.png", "o.png", "--method", "magic"], ["dots", "art.png", "no/where.png"],
        ["gcode", "art.png", "o.g", "--speed", "nan"], ["gcode", "art.png", "o.g", "--beam", "M5"],
        ["dots", "art.png", "o.png", "--tones", "warm"], ["dots", "art.png", "o.png", "--ruling", "0"],
        ["dots", "job.json", "o.png"], ["check", "art.png"], ["estimate", "art.png"], ["job"],
    ],
)  # fmt: skip
def test_bad_input_gets_one_sentence_and_status_2(folder, arguments):
    (folder / "job.json").write_text("{}")
    done = run(*arguments, cwd=folder)
    assert done.returncode == 2
    assert done.stdout == ""
    assert len(done.stderr.strip().splitlines()) == 1
    assert "Traceback" not in done.stderr


def _zip(packing):
    """A job file as another program may have packed it again."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", packing) as archive:
        archive.writestr("job.json", job_json(JobSpec(artwork=ArtworkPart(file="a.png"))))
        archive.writestr("a.png", png(np.zeros((4, 4), np.uint8)))
    return stream.getvalue()


@pytest.mark.parametrize(
    "packing", [zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_LZMA]
)
def test_a_damaged_zip_is_refused_in_words_wherever_it_is_damaged(packing):
    """Every byte in turn another, and cut short there: no traceback, of any kind."""
    whole = _zip(packing)
    for at in range(len(whole)):
        other = whole[:at] + bytes([whole[at] ^ 0x5F]) + whole[at + 1 :]
        for damaged in (other, whole[:at]):
            with suppress(EngravingError):
                read_job_zip(io.BytesIO(damaged))


def test_a_spot_of_its_own_stands_beside_lenses():
    """What is typed for a job is its spot; another lens's is what that lens left."""
    lenses = [{"name": "Short", "spot_mm": 0.08}, {"name": "Long", "spot_mm": 0.2}]
    machine = {"lenses": lenses, "lens": "Short"}
    assert MachinePart.model_validate(machine).spot_mm == 0.08
    typed = MachinePart.model_validate({**machine, "spot_mm": 0.11})
    assert typed.spot_mm == 0.11
    assert MachinePart.model_validate(typed.model_dump()) == typed
    fitted = {**MachinePart.model_validate(machine).model_dump(), "lens": "Long"}
    assert MachinePart.model_validate(fitted).spot_mm == 0.2


@pytest.mark.parametrize("share", [0.2, 0.5, 0.8])
def test_between_two_jobs_a_choice_is_the_nearer_ones(share):
    """Nothing lies between two of a few: a matrix of 2 and of 16, recipe and version."""
    first = JobSpec(
        dots={"matrix": 2}, burn={"recipe": "A", "recipe_version": 1, "power": 20}
    )
    second = JobSpec(
        dots={"matrix": 16}, burn={"recipe": "B", "recipe_version": 9, "power": 40}
    )
    found, nearer = (
        interpolate_specs(first, second, share),
        first if share < 0.5 else second,
    )
    assert found.dots.matrix == nearer.dots.matrix
    recipe = (nearer.burn.recipe, nearer.burn.recipe_version)
    assert (found.burn.recipe, found.burn.recipe_version) == recipe
    assert found.burn.power == pytest.approx(20 + 20 * share)
