"""What stands on the shelf: machines, substrates, blanks, recipes.

``part`` holds the values a job copies, in the job file's own words; it is
checked by the core when it is saved through `services`.
"""

from typing import ClassVar

from django.db import models

from workshop.shell.search import every_word


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


class MachineQuerySet(models.QuerySet["Machine"]):
    """Questions about machines."""

    def with_use(self) -> "MachineQuerySet":
        """Machines with how many jobs and recipes use each."""
        return self.annotate(
            used=models.Count("job", distinct=True),
            known=models.Count("recipes", distinct=True),
        )


class Machine(ShelfItem):
    """A machine and where its controller is reached."""

    link = models.CharField(
        max_length=200,
        blank=True,
        help_text="Serial port, or socket://127.0.0.1:4210; empty: the stand-in.",
    )
    baud = models.PositiveIntegerField(default=115200)
    camera = models.JSONField(
        default=dict, blank=True, help_text="The calibrated bed camera; empty: none."
    )
    timing = models.JSONField(
        default=dict, blank=True, help_text="How its own burns correct planned times."
    )
    left_out = models.JSONField(
        default=list, blank=True, help_text="Lines of the list for the hands not asked for."
    )
    told = models.JSONField(
        default=dict, blank=True, help_text="What it said of itself when asked last."
    )
    bed_seen = models.JSONField(
        default=dict, blank=True, help_text="The bed's newest photo and what lies on it."
    )

    objects = MachineQuerySet.as_manager()


class SubstrateQuerySet(models.QuerySet["Substrate"]):
    """Questions about substrates."""

    def with_use(self) -> "SubstrateQuerySet":
        """Substrates with how many jobs and recipes use each."""
        return self.annotate(
            used=models.Count("job", distinct=True),
            known=models.Count("recipes", distinct=True),
        )


class Substrate(ShelfItem):
    """A material as it answers the beam, and how it is to be handled.

    ``care`` holds plain notes by name: cleaning, coating, underlay, fumes,
    eyes.
    """

    care = models.JSONField(default=dict, blank=True)

    objects = SubstrateQuerySet.as_manager()


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
        """Recipes of dots for this machine and substrate, favourites and proven first."""
        return self.filter(
            machine_id=machine_id,
            substrate_id=substrate_id,
            part__kind__in=["dots", "tone"],
        ).order_by("-favourite", "name")

    def found_by(self, text: str) -> "RecipeQuerySet":
        """Recipes in which every word of a text occurs somewhere."""
        places = ("name", "machine__name", "substrate__name", "note")
        return self.filter(every_word(text, places))

    def with_all(self) -> "RecipeQuerySet":
        """Fetch what a list shows in one go."""
        return self.select_related("machine", "substrate")


class Recipe(models.Model):
    """Settings that work for one substrate on one machine; the newest version."""

    name = models.CharField(max_length=100)
    machine = models.ForeignKey(Machine, on_delete=models.CASCADE, related_name="recipes")
    substrate = models.ForeignKey(
        Substrate, on_delete=models.CASCADE, related_name="recipes"
    )
    part = models.JSONField(default=dict)
    version = models.PositiveIntegerField(default=1)
    favourite = models.BooleanField(default=False)
    note = models.TextField(blank=True)
    changed = models.DateTimeField(auto_now=True)

    objects = RecipeQuerySet.as_manager()

    class Meta:
        ordering: ClassVar = ["name"]

    def __str__(self) -> str:
        return self.name


class RecipeVersion(models.Model):
    """One state of a recipe, kept for good, and why it was made."""

    recipe = models.ForeignKey(Recipe, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    part = models.JSONField()
    why = models.CharField(max_length=300, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-number"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["recipe", "number"], name="version_of_recipe")
        ]

    def __str__(self) -> str:
        return f"{self.recipe} v{self.number}"


class Evidence(models.Model):
    """Something burned by a recipe: what the recipe rests on.

    ``key`` names the card or the burn, so that it counts once however often it is told.
    """

    recipe = models.ForeignKey(Recipe, on_delete=models.CASCADE, related_name="evidence")
    version = models.PositiveIntegerField(default=0)
    kind = models.CharField(max_length=10, choices=[("card", "card"), ("piece", "piece")])
    key = models.CharField(max_length=60)
    said = models.CharField(max_length=200)
    power = models.FloatField(default=0.0)
    speed_mm_s = models.FloatField(default=0.0)
    rating = models.PositiveSmallIntegerField(default=0)
    result = models.CharField(max_length=20, blank=True, help_text="How it came out.")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-pk"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["recipe", "key"], name="evidence_once")
        ]

    def __str__(self) -> str:
        return f"{self.said} for {self.recipe}"

    @property
    def number(self) -> int:
        """The number in its key: of a ticket, or of a burn."""
        return int(self.key.rpartition(" ")[2])
