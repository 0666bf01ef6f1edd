"""Files that mean no good: read, or refused in words, never anything else.

`make faults` reads many more of them, each with limits of time and memory.
"""

import io
import warnings

import ezdxf
import pytest

from engraving.drawing import read_dxf_paths, read_svg_paths
from engraving.errors import ArtworkError
from support.hostile import read, sound, spoiled

SOUND = sound()
SEEDS = range(60)


@pytest.mark.parametrize("kind", SOUND)
def test_sound_files_are_read(kind, tmp_path):
    assert read(kind, SOUND[kind], tmp_path) == "read"


@pytest.mark.parametrize("kind", SOUND)
def test_spoiled_files_are_read_or_refused(kind, tmp_path):
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        found = {read(kind, spoiled(SOUND[kind], seed), tmp_path) for seed in SEEDS}
    assert found <= {"read", "refused"}


# What decoders raised, by the seed that made them (97 of 42 500 before they were caught).
@pytest.mark.parametrize(("kind", "seed"), [("tiff", 11), ("tiff lzw", 87), ("heic", 995)])
def test_what_once_got_through(kind, seed, tmp_path):
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        assert read(kind, spoiled(SOUND[kind], seed), tmp_path) == "refused"


def test_blocks_of_blocks_have_an_end():
    """Ten copies in each of nine blocks are a thousand million parts in a small file."""
    drawing = ezdxf.new()
    drawing.blocks.new("B0").add_line((0, 0), (1, 1))
    for level in range(1, 9):
        block = drawing.blocks.new(f"B{level}")
        for at in range(10):
            block.add_blockref(f"B{level - 1}", (at, 0))
    drawing.modelspace().add_blockref("B8", (0, 0))
    stream = io.StringIO()
    drawing.write(stream)
    with pytest.raises(ArtworkError, match="repeats its blocks"):
        read_dxf_paths(stream.getvalue().encode())


def test_groups_in_groups_have_an_end():
    deep = 20_000
    body = b"<g>" * deep + b'<rect width="3" height="3"/>' + b"</g>" * deep
    with pytest.raises(ArtworkError, match="cannot be read"):
        read_svg_paths(b'<svg xmlns="http://www.w3.org/2000/svg">' + body + b"</svg>")
