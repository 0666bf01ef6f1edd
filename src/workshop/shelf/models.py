"""What stands on the shelf: machines, substrates, blanks, recipes.

``part`` holds the values a job copies, in the job file's own words; it is
checked by the core when it is saved through `services`.
"""

from typing import ClassVar

from django.db import models


class ShelfItem(models.Model):
    """Something with a name and values a job copies."""

    name = models.CharField(max_length=100, unique=True)
    part = models.JSONField(default=dict)
    note = models.TextField(blank=True)

    class Meta:
        abstract = True
        ordering: ClassVar = ["name"]

    def __str__(self) -> str:
        return self.name


class Machine(ShelfItem):
    """A machine and where its controller is reached."""

    link = models.CharField(
        max_length=200,
        blank=True,
        help_text="Serial port, or socket://127.0.0.1:4210; empty: the stand-in.",
    )


class Substrate(ShelfItem):
    """A material as it answers the beam."""


class BlankQuerySet(models.QuerySet["Blank"]):
    """Questions about blanks."""

    def with_use(self) -> "BlankQuerySet":
        """Blanks with their substrate and how many jobs use each, as ``used``."""
        return self.select_related("substrate").annotate(used=models.Count("job"))


class Blank(ShelfItem):
    """A physical thing to be engraved."""

    substrate = models.ForeignKey(
        Substrate, null=True, blank=True, on_delete=models.SET_NULL, related_name="blanks"
    )
    colours = models.JSONField(
        default=list, blank=True, help_text="Colour variants: name, ground, mark."
    )
    photo = models.CharField(max_length=64, blank=True)

    objects = BlankQuerySet.as_manager()


class RecipeQuerySet(models.QuerySet["Recipe"]):
    """Questions about recipes."""

    def fitting(self, machine_id: int | None, substrate_id: int | None) -> "RecipeQuerySet":
        """Recipes for this machine and substrate."""
        return self.filter(machine_id=machine_id, substrate_id=substrate_id)


class Recipe(models.Model):
    """Settings that work for one substrate on one machine."""

    name = models.CharField(max_length=100)
    machine = models.ForeignKey(Machine, on_delete=models.CASCADE, related_name="recipes")
    substrate = models.ForeignKey(
        Substrate, on_delete=models.CASCADE, related_name="recipes"
    )
    speed_mm_s = models.FloatField()
    power = models.FloatField()
    passes = models.PositiveIntegerField(default=1)
    pitch_mm = models.FloatField()
    method = models.CharField(max_length=60, default="floyd-steinberg")
    both_ways = models.BooleanField(default=True)
    note = models.TextField(blank=True)

    objects = RecipeQuerySet.as_manager()

    class Meta:
        ordering: ClassVar = ["name"]

    def __str__(self) -> str:
        return self.name
