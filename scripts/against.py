"""Time the same work by two revisions in turn, so that a slower one is seen early.

``make against REV=main~5`` holds what lies here against a revision. Each round runs
every piece of work once by the one and once by the other, in processes that stay.
"""

import io
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

ROUNDS = 9
ROOT = Path(__file__).resolve().parents[1]


def works() -> dict[str, Callable[[], object]]:
    """Return the pieces of work, by name; imports are those of the revision at hand."""
    import cv2
    import numpy as np

    from engraving.artwork import Artwork, InMemorySource
    from engraving.artwork.grid import resample
    from engraving.dots import make_dots
    from engraving.dots.diffusion import diffuse
    from engraving.dots.kernels import KERNELS
    from engraving.dots.variable import diffuse_by_tone
    from engraving.jobspec import (
        ArtworkPart,
        DotsPart,
        JobSpec,
        SizePart,
        TonePart,
        TracePart,
    )
    from engraving.outline import traced
    from engraving.pipeline import Pipeline, StageCache
    from engraving.proof import Window, shown_marks

    side = 2000
    y, x = np.mgrid[0:side, 0:side].astype(np.float32)
    light = 127 + 80 * np.sin(x / 97) * np.cos(y / 61)
    light += np.random.default_rng(1).normal(0, 12, (side, side))
    gray = light.clip(0, 255).astype(np.uint8)
    large = np.repeat(np.repeat(gray[:1500], 2, 0), 2, 1)
    spec = JobSpec(
        artwork=ArtworkPart(width_px=side, height_px=side),
        size=SizePart(width_mm=200, height_mm=200, pitch_mm=0.1),
    )
    source = InMemorySource(Artwork(gray, "PNG", "gray", None, (), False))
    job = Pipeline(source, StageCache(1 << 30))
    window, bits = Window(0, 0, side, side, 640, 640), job.dots(spec)
    near = Window(0, 0, 640, 400, 1280, 800)
    soft = cv2.GaussianBlur(light - light.min(), (0, 0), 12)
    soft = (255 * (soft - soft.min()) / np.ptp(soft)).astype(np.uint8)
    shades = iter(range(1, 10**6))

    def under_a_slider() -> object:
        tone = TonePart(brightness=next(shades) % 90, sharpen_amount=50)
        fresh = spec.model_copy(update={"tone": tone})
        return shown_marks(job.dots(fresh), window, job.spot(fresh), job.palette(fresh))

    return {
        "diffusion, one way": lambda: diffuse(gray, KERNELS["jarvis"], serpentine=False),
        "diffusion, to and fro": lambda: diffuse(gray, KERNELS["jarvis"], serpentine=True),
        "the widest table, one way": lambda: diffuse(
            gray, KERNELS["stevenson-arce"], serpentine=False
        ),
        "weights by tone, one way": lambda: diffuse_by_tone(gray, serpentine=False),
        "round screen": lambda: make_dots(gray, DotsPart(method="round"), (0.1, 0.1)),
        "12 to 3 megapixels": lambda: resample(large, side, 1500),
        "proof from afar": lambda: shown_marks(
            bits, window, job.spot(spec), job.palette(spec)
        ),
        "proof near": lambda: shown_marks(bits, near, job.spot(spec), job.palette(spec)),
        "G-code and time": lambda: job.write_gcode(spec, io.BytesIO()),
        "tracing soft noise": lambda: traced(soft, (0.1, 0.1), TracePart()),
        "tone to picture": under_a_slider,
    }


def serve() -> None:
    """Run what is named on each line, and answer with its seconds."""
    known = works()
    for work in known.values():
        work()
    print(json.dumps(list(known)), flush=True)
    for line in sys.stdin:
        begun = time.perf_counter()
        known[line.strip()]()
        print(time.perf_counter() - begun, flush=True)


class Revision:
    """A process that works by one revision's code."""

    def __init__(self, tree: Path) -> None:
        self._process = subprocess.Popen(
            [sys.executable, __file__, "--serve"], stdin=subprocess.PIPE,
            stdout=subprocess.PIPE, text=True,
            env={**os.environ, "PYTHONPATH": str(tree / "src")},
        )  # fmt: skip
        self.names: list[str] = json.loads(self._answer())

    def _answer(self) -> str:
        assert self._process.stdout is not None
        return self._process.stdout.readline()

    def seconds(self, name: str) -> float:
        """Return how long a piece of work took."""
        assert self._process.stdin is not None
        print(name, file=self._process.stdin, flush=True)
        return float(self._answer())

    def end(self) -> None:
        """End the process."""
        self._process.communicate()


def compare(revision: str) -> None:
    """Print the medians of both, and of their ratios."""
    from statistics import median

    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / "tree"
        git = ["git", "-C", str(ROOT)]
        subprocess.run(
            [*git, "worktree", "add", "-q", "--detach", tree, revision], check=True
        )
        try:
            old, new = Revision(tree), Revision(ROOT)
            print(f"load {os.getloadavg()[0]:.1f}; medians of {ROUNDS} rounds in turn")
            for name in new.names:
                pairs = [(old.seconds(name), new.seconds(name)) for _ in range(ROUNDS)]
                before, after = (1000 * median(one) for one in zip(*pairs, strict=True))
                ratio = median(b / a for a, b in pairs)
                print(f"{name:24s}{before:9.1f} ms {after:9.1f} ms {ratio:7.2f}")
            old.end(), new.end()
        finally:
            subprocess.run([*git, "worktree", "remove", "--force", tree], check=True)


if __name__ == "__main__":
    if sys.argv[1:] == ["--serve"]:
        serve()
    elif len(sys.argv) == 2:
        compare(sys.argv[1])
    else:
        sys.exit("Name the revision to hold this one against: make against REV=main~5")
