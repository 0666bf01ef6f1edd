"""What a piece's page shows of its lesson, and what its recipe is offered."""

from dataclasses import dataclass
from typing import Any

from engraving.jobspec import JobSpec
from engraving.pieces import STEP, Amendment, Learned, Points, amended
from engraving.recipe import unlike
from workshop.bench.lessons.pictures import SCALE
from workshop.bench.models import Lesson, Run
from workshop.shelf.models import Recipe
from workshop.shelf.recipes.changes import recipe_part
from workshop.shelf.recipes.facts import said_of

_NONE_YET = "by hand"
_CALM = 1.0
"""Less than so many L* is not worth a version."""
_SHOWN = 2


@dataclass(frozen=True)
class Offer:
    """An amendment of a recipe's tone curve, or why there is none.

    Attributes
    ----------
    recipe : Recipe or None
        Which it is offered to; None makes one.
    version : str
        The version it was computed for.
    known : tuple of (float, float)
        The present curve, burned share in % and L*.
    amendment : Amendment or None
    why : str
        Why there is none.
    """

    recipe: Recipe | None
    version: str
    known: tuple[tuple[float, float], ...]
    amendment: Amendment | None
    why: str = ""


def _learned(lesson: Lesson) -> Learned:
    return Learned(
        tuple(tone[2] for tone in lesson.tones), tuple(tone[3] for tone in lesson.tones)
    )


def recipe_of_run(run: Run) -> Recipe | None:
    """Return the recipe a burn was made by, if it is still on the shelf."""
    spec = run.spec
    return Recipe.objects.filter(
        name=spec["burn"]["recipe"],
        machine__name=spec["machine"]["name"],
        substrate__name=spec["substrate"]["name"],
    ).first()


def offered(run: Run) -> Offer:
    """Return how the recipe of a burn would be amended by its pieces, this one included."""
    lesson = Lesson.objects.filter(run=run).first()
    if lesson is None or lesson.fault or not lesson.tones:
        return Offer(None, "", (), None, "This piece says nothing yet.")
    expected = tuple((100 * tone[0], tone[1]) for tone in lesson.tones)
    if not run.spec["burn"]["recipe"]:
        found = None if lesson.left_out else amended(expected, [_learned(lesson)])
        return _worth(Offer(None, _NONE_YET, expected, found))
    recipe = recipe_of_run(run)
    if recipe is None:
        name = run.spec["burn"]["recipe"]
        return Offer(
            None, "", expected, None, f"Its recipe {name} is not on the shelf any more."
        )
    part, version = recipe_part(recipe), str(recipe.version)
    if other := unlike(JobSpec.model_validate(run.spec), part):
        what = ", ".join(said_of(name) for name in other)
        why = f"It was burned otherwise than {recipe} says by now: {what}."
        return Offer(recipe, version, expected, None, why)
    known = part.patches or expected
    said = [_learned(one) for one in _siblings(recipe) if not unlike(_spec(one), part)]
    return _worth(Offer(recipe, version, known, amended(known, said)))


def _siblings(recipe: Recipe) -> list[Lesson]:
    found = Lesson.objects.told().of_recipe(
        recipe.name, recipe.machine.name, recipe.substrate.name
    )
    return list(found)


def _spec(lesson: Lesson) -> JobSpec:
    return JobSpec.model_validate(lesson.run.spec)


def _worth(offer: Offer) -> Offer:
    """Return an offer only where it changes something that is seen."""
    found = offer.amendment
    if found is None:
        return Offer(
            offer.recipe, offer.version, offer.known, None, "All its pieces are left out."
        )
    if abs(found.largest) < _CALM:
        why = "The recipe's tones come out as they should; there is nothing to amend."
        return Offer(offer.recipe, offer.version, offer.known, None, why)
    return offer


def lesson_facts(run: Run) -> dict[str, Any]:
    """Return what a burn's page shows of its lesson."""
    lesson = Lesson.objects.filter(run=run).first()
    spec = JobSpec.model_validate(run.spec)
    points = Points.of_piece(spec.size, spec.blank)
    context: dict[str, Any] = {
        "lesson": lesson,
        "points": points,
        "starts": _starts(lesson, points),
        "can_learn": spec.card is None,
    }
    if lesson is None or lesson.fault:
        return context
    offer = offered(run)
    return context | {
        "offer": offer,
        "chart": _chart(lesson, offer),
        "tones": _tones(lesson),
        "step": STEP,
        "scale": SCALE,
        "more": _burns_more(spec, offer),
    }


def _burns_more(spec: JobSpec, offer: Offer) -> bool:
    """Whether jobs burn more by an amendment, where it moves most."""
    return offer.amendment is not None and (offer.amendment.largest > 0) == spec.burns_dark


def _starts(lesson: Lesson | None, points: Points) -> str:
    """Return where the rings begin, as the page's script reads it."""
    places = lesson.corners if lesson and len(lesson.corners) == 4 else None
    if places is None and points.of != "the picture":
        places = [(0.1, 0.5), (0.9, 0.5), (0.5, 0.9), (0.5, 0.1)]
    return " ".join(f"{x:.5f},{y:.5f}" for x, y in places or [])


def _tones(lesson: Lesson) -> list[dict[str, float]]:
    """Return every second tone that the piece speaks of, from bare to solid."""
    rows = lesson.tones[::_SHOWN]
    return [
        {"share": t[0], "expected": t[1], "seen": t[2], "off": t[2] - t[1], "covered": t[3]}
        for t in rows
        if t[3] > 0
    ]


def _chart(lesson: Lesson, offer: Offer) -> dict[str, str]:
    """Return curves as points of an SVG of 100 × 100, L* upward."""
    seen = [(100 * t[0], t[2]) for t in lesson.tones if t[3] > 0]
    curves = {"known": list(offer.known), "seen": seen}
    if offer.amendment is not None:
        curves["amended"] = list(offer.amendment.patches)
    return {
        name: " ".join(f"{share:.2f},{100 - light:.2f}" for share, light in curve)
        for name, curve in curves.items()
    }
