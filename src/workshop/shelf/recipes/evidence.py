"""What a recipe rests on: cards and pieces that were burned by it."""

from typing import Any

from workshop.shelf.models import Evidence, Recipe


def note_evidence(recipe: Recipe, key: str, **values: Any) -> None:
    """Note that something was burned by a recipe; told again, it is the same one.

    Parameters
    ----------
    recipe : Recipe
    key : str
        Names the card or the burn.
    **values
        Fields of `Evidence`: ``kind`` (``card`` or ``piece``), ``said`` for people,
        ``power`` and ``speed_mm_s`` as it was burned, ``rating``, and the recipe's
        ``version``, without which it is the present one. A rating of 0 leaves an earlier
        one.
    """
    if not values.get("rating"):
        values.pop("rating", None)
    values = {**values, "version": values.get("version") or recipe.version}
    values["said"] = str(values.get("said", ""))[:200]
    Evidence.objects.update_or_create(recipe=recipe, key=key, defaults=values)


def note_outcome(key: str, result: str) -> None:
    """Note with what recipes rest on how a piece came out, where one rests on it."""
    Evidence.objects.filter(key=key).update(result=result)
