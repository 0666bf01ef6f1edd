"""A compiled kernel is found again by what its source says, wherever that lies."""

import shutil
from pathlib import Path

import pytest

from engraving.dots import runs
from kept_kernels.locator import OncePerMachine, text_digest


@pytest.fixture
def tree(tmp_path):
    """Two checkouts of a package whose kernel takes a number from another module."""
    package = tmp_path / "here/core"
    package.mkdir(parents=True)
    (package / "__init__.py").write_text("")
    (package / "kernel.py").write_text("from core.numbers import (\n    STEP,\n)\n")
    (package / "numbers.py").write_text("from core import units\nSTEP = 2\n")
    (package / "units.py").write_text("MM = 1\n")
    (package / "other.py").write_text("MM = 1\n")
    shutil.copytree(tmp_path / "here", tmp_path / "there")
    return package, tmp_path / "there/core"


def test_two_checkouts_that_say_the_same_share_it(tree):
    here, there = tree
    assert text_digest(here / "kernel.py") == text_digest(there / "kernel.py")


@pytest.mark.parametrize(
    ("changed", "same"),
    [("numbers", False), ("units", False), ("kernel", False), ("other", True)],
)
def test_what_is_compiled_into_it_counts(tree, changed, same):
    here, there = tree
    with (there / f"{changed}.py").open("a") as module:
        module.write("# otherwise\n")
    assert (text_digest(here / "kernel.py") == text_digest(there / "kernel.py")) is same


def test_kernels_of_the_core_are_kept_there():
    place = OncePerMachine.from_function(runs._short_runs.py_func, runs.__file__)
    assert place.get_cache_path().endswith(
        f"kernels/runs-{text_digest(Path(runs.__file__))}"
    )
