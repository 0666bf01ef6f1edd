"""A file that hangs, eats all memory or brings its reader down: a sentence, and no more."""

import io
import os
import signal

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from engraving.errors import ArtworkError
from support.hostile import sound
from workshop.tasting import kinds, server, taste
from workshop.tasting.taster import _taster

SOUND = sound()


@pytest.mark.parametrize(
    ("kind", "of"),
    [("picture", "tiff"), ("picture", "heic"), ("font", "font"), ("svg", "svg"), ("dxf", "dxf")],
)  # fmt: skip
def test_sound_files_pass_and_others_are_refused_in_words(kind, of):
    taste(kind, SOUND[of])
    with pytest.raises(ArtworkError, match=r"(read|picture|font|lines|drawing)"):
        taste(kind, b"\0" * 40)


def hangs(_):
    while True:
        pass


def eats(_):
    kept = []
    while True:
        kept.append(bytearray(64 << 20))


def falls(_):
    os.kill(os.getpid(), signal.SIGKILL)


def faulty(_):
    raise ZeroDivisionError


@pytest.mark.parametrize(
    ("reader", "word"),
    [(hangs, "slow"), (eats, "large"), (falls, "broken"), (faulty, "broken")],
)
def test_what_becomes_of_a_reader(reader, word, monkeypatch, tmp_path):
    """Each in the child alone: this process goes on, with its memory."""
    monkeypatch.setitem(kinds.READERS, "picture", reader)
    # Eating 300 MB takes its time beside other work.
    seconds = 1.0 if reader is hangs else 60.0
    asked = {
        "kind": "picture", "path": str(tmp_path), "seconds": seconds, "bytes": 300 << 20
    }  # fmt: skip
    assert server.tasted(asked) == word


def tiff(side):
    stream = io.BytesIO()
    Image.new("L", (side, side), 90).save(stream, "TIFF", compression="tiff_lzw")
    return stream.getvalue()


def test_the_sentences_reach_who_asked(client, db, monkeypatch):
    with pytest.raises(ArtworkError, match=r"memory|damaged"):
        taste("picture", tiff(9000), most=1 << 20)
    with pytest.raises(ArtworkError, match="too long"):
        taste("picture", tiff(9000), seconds=0.001)
    monkeypatch.setattr("workshop.jobs.pictures.intake.taste", refuse)
    files = {"files": [SimpleUploadedFile("a.tiff", tiff(40))]}
    assert "breaks off" in client.post("/jobs/new/", files).content.decode()


def refuse(kind, source):
    raise ArtworkError("It breaks off.")


def test_a_taster_that_is_gone_is_begun_again():
    taste("picture", SOUND["tiff"])
    _taster._process.kill()
    _taster._process.wait()
    taste("picture", SOUND["tiff"])
    assert _taster._process.poll() is None
