"""Jobs, their revisions, and the pictures they are made from."""

import hashlib
import json
from datetime import timedelta
from typing import Any, ClassVar

from django.db import models, transaction
from django.db.models import Max
from django.utils import timezone

from workshop.shelf.models import Blank, Machine, Recipe, Substrate
from workshop.shell.search import every_word

STATIONS = (
    "artwork", "blank", "tone", "dots", "burn", "outlines", "place", "check", "run",
)  # fmt: skip
_FIRST_NUMBER = 401
_SEARCHED = (
    "name", "customer", "note", "machine__name", "substrate__name", "blank__name",
    "recipe__name",
)  # fmt: skip


class Artwork(models.Model):
    """A picture file, stored once by its content, untouched."""

    sha256 = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=200)
    size_bytes = models.PositiveBigIntegerField()
    width_px = models.PositiveIntegerField()
    height_px = models.PositiveIntegerField()
    format = models.CharField(max_length=20)
    mode = models.CharField(max_length=60)
    dpi_x = models.FloatField(null=True)
    dpi_y = models.FloatField(null=True)
    two_level = models.BooleanField(default=False)
    dotted = models.BooleanField(default=False)
    smeared = models.BooleanField(default=False)
    transparent = models.BooleanField(default=False)
    pages = models.PositiveIntegerField(default=1)
    notes = models.JSONField(default=list)
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name


class Font(models.Model):
    """An uploaded font, stored once by its content."""

    sha256 = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=60)

    class Meta:
        ordering: ClassVar = ["name"]

    def __str__(self) -> str:
        return self.name


class JobQuerySet(models.QuerySet["Job"]):
    """Questions about jobs."""

    def with_all(self) -> "JobQuerySet":
        """Fetch what a ticket shows in one go."""
        return self.select_related(
            "artwork", "head", "machine", "substrate", "blank", "recipe", "pattern"
        ).prefetch_related("recipe__evidence")

    def burned_lately(self, days: int = 7) -> "JobQuerySet":
        """Jobs burned in the last days."""
        since = timezone.now() - timedelta(days=days)
        return self.filter(burned_at__gte=since, put_away_at=None).order_by("-burned_at")

    def in_line_at(self, machine: Machine) -> "JobQuerySet":
        """Jobs that are to be burned next on a machine, in their order."""
        waiting = self.filter(machine=machine, burned_at=None, put_away_at=None)
        return waiting.exclude(lined_up_at=None).order_by("lined_up_at")

    def found_by(self, text: str) -> "JobQuerySet":
        """Jobs of which every word occurs: in names, of them or of what they are made with.

        A number is also a ticket's.
        """
        return self.filter(every_word(text, _SEARCHED, "number"))

    def next_number(self) -> int:
        """Return a ticket number that no ticket has or had."""
        with transaction.atomic():
            given, _ = Numbering.objects.get_or_create(pk=1)
            highest = self.aggregate(highest=Max("number"))["highest"] or 0
            given.last = max(given.last, highest, _FIRST_NUMBER - 1) + 1
            given.save(update_fields=["last"])
        return given.last


class OnTheRack(models.Manager.from_queryset(JobQuerySet)):  # type: ignore[misc]
    """Tickets that do not lie in the bin."""

    def get_queryset(self) -> JobQuerySet:
        """Leave out what was taken off."""
        return super().get_queryset().filter(removed_at=None)


class Numbering(models.Model):
    """The last ticket number given; a removed ticket's number is not given again."""

    last = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return f"Last number {self.last}"


class Job(models.Model):
    """A job ticket. Its description is the spec of its head revision."""

    number = models.PositiveIntegerField(unique=True)
    name = models.CharField(max_length=200)
    customer = models.CharField(max_length=200, blank=True)
    note = models.TextField(blank=True)
    due = models.DateField(null=True, blank=True)
    artwork = models.ForeignKey(Artwork, on_delete=models.PROTECT, related_name="jobs")
    sheets = models.ManyToManyField(Artwork, blank=True, related_name="+")
    machine = models.ForeignKey(Machine, null=True, on_delete=models.SET_NULL)
    substrate = models.ForeignKey(Substrate, null=True, on_delete=models.SET_NULL)
    blank = models.ForeignKey(Blank, null=True, on_delete=models.SET_NULL)
    recipe = models.ForeignKey(Recipe, null=True, on_delete=models.SET_NULL)
    head = models.ForeignKey(
        "Revision", null=True, on_delete=models.SET_NULL, related_name="+"
    )
    revisions_made = models.PositiveIntegerField(default=0)
    station = models.CharField(max_length=20, default="artwork")
    visited = models.JSONField(default=list)
    checked_state = models.CharField(max_length=64, blank=True)
    pattern = models.ForeignKey(
        "Pattern", null=True, blank=True, on_delete=models.SET_NULL, related_name="jobs"
    )
    pattern_version = models.PositiveIntegerField(default=0)
    created = models.DateTimeField(auto_now_add=True)
    burned_at = models.DateTimeField(null=True)
    put_away_at = models.DateTimeField(null=True, blank=True, help_text="Archived since.")
    removed_at = models.DateTimeField(null=True, blank=True, help_text="In the bin since.")
    lined_up_at = models.DateTimeField(
        null=True, blank=True, help_text="In the line of its machine since."
    )

    objects = OnTheRack()
    everything = JobQuerySet.as_manager()

    def __str__(self) -> str:
        return f"{self.number:04d} {self.name}"

    @property
    def spec_data(self) -> dict[str, Any]:
        """The head revision's job description as plain data."""
        return self.head.spec if self.head else {}

    @property
    def state(self) -> str:
        """What tells the job's present state from every other; empty before the first."""
        return self.head.digest if self.head else ""


class Pattern(models.Model):
    """A ticket's settings, or parts of them, under a name; the newest version."""

    name = models.CharField(max_length=100, unique=True)
    spec = models.JSONField()
    relations = models.JSONField(default=dict)
    parts = models.JSONField(default=list)
    version = models.PositiveIntegerField(default=1)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering: ClassVar = ["name"]

    def __str__(self) -> str:
        return self.name


def state_digest(spec: dict[str, Any], relations: dict[str, int | None]) -> str:
    """Return what tells one state of a job from another, 32 hexadecimal digits."""
    text = json.dumps([spec, relations], sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()[:32]


class Revision(models.Model):
    """One state of a job. Changes append; undo and redo move the job's head."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    spec = models.JSONField()
    label = models.CharField(max_length=120)
    touched = models.CharField(max_length=120, blank=True)
    relations = models.JSONField(default=dict)
    digest = models.CharField(max_length=64, blank=True)
    author = models.CharField(max_length=150, blank=True)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering: ClassVar = ["number"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["job", "number"], name="revision_of_job")
        ]

    def __str__(self) -> str:
        return f"{self.number}: {self.label}"


class Take(models.Model):
    """A variant of a job that was kept. Opening it restores all of its settings."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="takes")
    letter = models.CharField(max_length=4)
    name = models.CharField(max_length=60, blank=True)
    spec = models.JSONField()
    relations = models.JSONField(default=dict)
    pinned = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["job", "letter"], name="take_of_job")
        ]

    def __str__(self) -> str:
        return f"Take {self.letter}"


class Approval(models.Model):
    """A proof that was sent out, what it showed, and what came back."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="approvals")
    token = models.CharField(max_length=64, unique=True)
    message = models.TextField(blank=True)
    shown = models.JSONField(
        default=list, help_text="name, key, size, blank, substrate, spec, relations"
    )
    made = models.DateTimeField(auto_now_add=True)
    taken_back = models.BooleanField(default=False)
    chosen = models.PositiveSmallIntegerField(null=True)
    name = models.CharField(max_length=100, blank=True)
    remark = models.TextField(blank=True)
    answered_at = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar = ["-pk"]

    def __str__(self) -> str:
        return f"Proof of {self.job}"

    @property
    def said(self) -> str:
        """What was said, in a few words."""
        if self.chosen is None:
            return f"{self.name} wants a change"
        which = self.shown[self.chosen]["name"]
        return f"Approved by {self.name}" + (f", {which}" if which else "")


class CardReading(models.Model):
    """A photo of a burned card, and what was read from it."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="readings")
    spec = models.JSONField()
    photo = models.CharField(max_length=64)
    corners = models.JSONField(default=list)
    result = models.JSONField(default=dict)
    fault = models.CharField(max_length=300, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-pk"]

    def __str__(self) -> str:
        return f"Reading of {self.job}"


class Signature(models.Model):
    """A caution that somebody signed off, and the grounds it was given for.

    It is void once the finding rests on anything else; see `engraving.check.watched`.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="signatures")
    rule = models.CharField(max_length=60)
    rests_on = models.CharField(max_length=64)
    sentence = models.CharField(max_length=400)
    figure = models.CharField(max_length=300, blank=True)
    name = models.CharField(max_length=40)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-pk"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["job", "rule"], name="signature_of_rule")
        ]

    def __str__(self) -> str:
        return f"{self.rule}, {self.name}"


class Tick(models.Model):
    """A line of the list for the hands that was ticked: what was done at a machine."""

    machine = models.ForeignKey(Machine, on_delete=models.CASCADE, related_name="ticks")
    slug = models.CharField(max_length=20)
    text = models.CharField(max_length=1200)
    job = models.ForeignKey(Job, null=True, on_delete=models.SET_NULL, related_name="+")
    name = models.CharField(max_length=40, blank=True)
    ticked = models.DateTimeField()

    class Meta:
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["machine", "slug"], name="tick_of_machine")
        ]

    def __str__(self) -> str:
        return f"{self.slug} at {self.machine}"


class GcodeFile(models.Model):
    """A file of G-code that came in and is no job's, or whose job lacks its picture.

    ``x_mm`` and ``y_mm`` are where the front left corner of what it burns lies on the
    bed; without them it lies as its own numbers say. ``full_power`` is its S word for
    full power, 0 the machine's own.
    """

    sha256 = models.CharField(max_length=64)
    name = models.CharField(max_length=200)
    size_bytes = models.PositiveBigIntegerField()
    machine = models.ForeignKey(
        Machine, null=True, blank=True, on_delete=models.SET_NULL, related_name="+"
    )
    x_mm = models.FloatField(null=True, blank=True)
    y_mm = models.FloatField(null=True, blank=True)
    full_power = models.PositiveIntegerField(default=0)
    wants = models.CharField(
        max_length=200, blank=True, help_text="The picture its job was made from."
    )
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-pk"]

    def __str__(self) -> str:
        return self.name
