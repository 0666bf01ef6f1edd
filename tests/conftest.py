"""Fixtures every test may use."""

import os

import numpy as np
import pytest
from hypothesis import settings

from engraving.jobspec import ArtworkPart, JobSpec, SizePart
from support.jobs import pipeline_of

# After a walk the browser's driver keeps a loop in its process, in which nothing else runs:
# Django takes it for asynchronous code, and would refuse its database to all later tests.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

# Machines are shared: a slow example says nothing of the program.
# `make test` tries the same examples each time; `make explore` looks for new ones.
settings.register_profile("shared", deadline=None, derandomize=True)
settings.register_profile("explore", deadline=None, max_examples=1000)
settings.load_profile(os.environ.get("EXAMPLES", "shared"))


def pytest_addoption(parser):
    """Let a run type more than one random round at human pace."""
    parser.addoption("--seeds", type=int, default=1, help="rounds typed at human pace")


def pytest_collection_modifyitems(items):
    """Give each process of a pool its share of walks early, since they take longest.

    The first process makes the demo for all; the others compute something meanwhile.
    """
    count = int(os.environ.get("PYTEST_XDIST_WORKER_COUNT", "1"))
    walks = [one for one in items if "tests/browser/" in one.nodeid]
    others = [one for one in items if "tests/browser/" not in one.nodeid]
    ends = [len(others) * k // count for k in range(count + 1)]
    shares = []
    for k in range(count):
        own = others[ends[k] : ends[k + 1]]
        begin = len(own) // 6 if k else 0
        shares += [*own[:begin], *walks[k::count], *own[begin:]]
    items[:] = shares


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
