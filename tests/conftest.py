"""Fixtures every test may use."""

import numpy as np
import pytest
from hypothesis import settings

from engraving.jobspec import ArtworkPart, JobSpec, SizePart
from support.jobs import pipeline_of

# Machines are shared: a slow example says nothing of the program.
settings.register_profile("shared", deadline=None)
settings.load_profile("shared")


def pytest_addoption(parser):
    """Let a run type more than one random round at human pace."""
    parser.addoption("--seeds", type=int, default=1, help="rounds typed at human pace")


@pytest.fixture
def scene():
    """A smooth picture with detail, 60 x 80, whole range of tones."""
    y, x = np.mgrid[0:60, 0:80]
    light = 127 + 120 * np.sin(x / 9) * np.cos(y / 7) + 12 * ((x // 3 + y // 5) % 2)
    return light.clip(0, 255).astype(np.uint8)


@pytest.fixture
def job(scene):
    """A job of one dot per pixel of the scene, and its pipeline."""
    spec = JobSpec(
        name="Scene",
        artwork=ArtworkPart(file="scene.png", width_px=80, height_px=60),
        size=SizePart(width_mm=8, height_mm=6, pitch_mm=0.1),
    )
    return spec, pipeline_of(scene)
