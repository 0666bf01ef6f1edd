"""Photos of pieces are read, kept or left out, and recipes amended by what they say."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from django.db import transaction
from PIL import Image

from engraving.errors import EngravingError, InputError
from engraving.jobspec import JobSpec
from engraving.pieces import Reading, read_piece
from workshop.bench.lessons.facts import Offer, offered
from workshop.bench.lessons.pictures import difference_picture, put
from workshop.bench.models import Lesson, Run
from workshop.bench.runs.keep import keep_as_recipe
from workshop.jobs.pictures.engine import pipeline
from workshop.shelf.models import Recipe
from workshop.shelf.photos import hold_size, keep_image, read_photo
from workshop.shelf.recipes.changes import add_version, checked_part, recipe_part
from workshop.tasting import taste

_PHOTO_PX = 2400

Places = Sequence[tuple[float, float]]


def photo_path(digest: str) -> Path:
    """Return where the photo of a finished piece lies."""
    return Path(settings.MEDIA_ROOT) / "pieces" / f"{digest}.jpg"


def keep_photo(run: Run, photo: Any) -> None:
    """Keep the photo of a burn's piece, and read what it teaches.

    Raises
    ------
    InputError
        When it is no photo, or too large.
    """
    hold_size(photo.size)
    taste("picture", photo.read())
    photo.seek(0)
    run.note(photo=keep_image(read_photo(photo, _PHOTO_PX), photo_path))
    learn(run)


def learn(run: Run, places: Places | None = None) -> Lesson:
    """Read the photo of a burn's piece; what it says, or why nothing, is kept.

    Parameters
    ----------
    run : Run
        With a photo.
    places : sequence of four points, optional
        The piece's points as shares of the photo's width and height; without, the
        piece is looked for.
    """
    photo = np.asarray(Image.open(photo_path(run.photo)).convert("RGB"))
    high, wide = photo.shape[:2]
    values: dict[str, Any] = {"photo": run.photo, "corners": list(places or [])}
    try:
        _hold_whole(run)
        pixels = [(x * wide, y * high) for x, y in places] if places else None
        expected = pipeline().expected(JobSpec.model_validate(run.spec))
        found = read_piece(photo, expected, pixels)
    except EngravingError as error:
        values |= {"fault": error.message[:300], "tones": []}
    else:
        values |= _values(found, wide, high)
        put(run, found.look, difference_picture(found.difference))
    lesson, _ = Lesson.objects.update_or_create(run=run, defaults=values)
    return lesson


def _hold_whole(run: Run) -> None:
    if run.state != "done":
        raise InputError("It was not burned to its end.")
    if run.trims:
        raise InputError(
            "Speed or power were trimmed while it burned; its tones are those of neither."
        )


def _values(found: Reading, wide: int, high: int) -> dict[str, Any]:
    return {
        "fault": "",
        "corners": [(x / wide, y / high) for x, y in found.corners],
        "found_by": found.found_by,
        "fits": found.fits,
        "off": found.off,
        "turned": found.turned,
        "tones": [
            [round(v, 4) for v in (one.share, one.expected, one.seen, one.covered)]
            for one in found.tones
        ],
    }


def leave_out(run: Run, *, out: bool) -> None:
    """Leave a piece out of what its recipe learns from, or count it again."""
    Lesson.objects.filter(run=run).update(left_out=out)


@transaction.atomic
def amend(run: Run, wanted: str) -> Recipe:
    """Amend the recipe of a burn by what its pieces say; one is made where there is none.

    Parameters
    ----------
    run : Run
    wanted : str
        The version that the amendment was offered for; another one is not amended.

    Raises
    ------
    InputError
        When nothing is offered, or the recipe was changed meanwhile.
    """
    offer = offered(run)
    if offer.amendment is None:
        raise InputError(offer.why or "Nothing is offered.")
    if wanted != offer.version:
        raise InputError("The recipe was changed meanwhile; look at what is offered now.")
    recipe = offer.recipe or keep_as_recipe(run, "", run.rating)
    part = recipe_part(recipe).model_copy(update={"patches": offer.amendment.patches})
    if part.confidence == "untested":
        part = part.model_copy(update={"confidence": "tried"})
    add_version(recipe, checked_part(part.model_dump()), _why(offer))
    return recipe


def _why(offer: Offer) -> str:
    found = offer.amendment
    if found is None:
        return ""
    way = "lighter" if found.largest > 0 else "darker"
    pieces = f"{found.pieces} photographed piece{'s' if found.pieces > 1 else ''}"
    return f"Tones by {pieces}: up to {abs(found.largest):.1f} L* {way}"
