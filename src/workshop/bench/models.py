"""Burns: what was sent to a controller, and how it went."""

from typing import Any, ClassVar

from django.db import models

from workshop.jobs.models import GcodeFile, Job
from workshop.shelf.models import Machine

ACTIVE = ("waiting", "running")

_AS_SAID = 100


class RunQuerySet(models.QuerySet["Run"]):
    """Questions about burns."""

    def active(self) -> "RunQuerySet":
        """Burns that are prepared or run, oldest first."""
        return self.filter(state__in=ACTIVE).order_by("pk")

    def queued_at(self, address: str) -> "RunQuerySet":
        """Burns that come next on a machine, in their order."""
        return self.filter(state="queued", address=address).order_by("pk")

    def latest_of(self, job: Job) -> "Run | None":
        """The newest burn of a job; one that only comes next is none yet."""
        return self.filter(job=job).exclude(state="queued").order_by("-pk").first()


class Run(models.Model):
    """One burn of one job, with the exact description it was made from."""

    STATES: ClassVar = [
        ("queued", "next"),
        ("waiting", "getting ready"),
        ("running", "burning"),
        ("done", "burned"),
        ("failed", "failed"),
        ("stopped", "stopped"),
    ]

    RESULTS: ClassVar = [
        ("good", "good"),
        ("dark", "too dark"),
        ("light", "too light"),
        ("spoiled", "spoiled"),
    ]

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="runs")
    machine = models.ForeignKey(
        Machine, null=True, blank=True, on_delete=models.SET_NULL, related_name="runs"
    )
    address = models.CharField(max_length=200, blank=True)
    spec = models.JSONField()
    state = models.CharField(max_length=10, choices=STATES, default="waiting")
    held = models.CharField(max_length=10, blank=True, help_text="holding, held, waiting")
    planned_s = models.FloatField(default=0.0)
    clock_s = models.FloatField(default=0.0)
    remaining_s = models.FloatField(default=0.0)
    rows = models.PositiveIntegerField(default=0)
    rows_done = models.PositiveIntegerField(default=0)
    first_row = models.PositiveIntegerField(default=0)
    trims = models.JSONField(default=list, blank=True)
    stop_wanted = models.BooleanField(default=False)
    dots_planned = models.PositiveBigIntegerField(default=0)
    dots_wrong = models.PositiveBigIntegerField(null=True)
    rating = models.PositiveSmallIntegerField(default=0)
    error = models.CharField(max_length=300, blank=True)
    operator = models.CharField(max_length=40, blank=True)
    revision = models.PositiveIntegerField(default=0, help_text="Of the job.")
    output_sha256 = models.CharField(max_length=64, blank=True)
    holds = models.PositiveIntegerField(default=0)
    alarms = models.JSONField(default=list, blank=True, help_text="Seconds, and what.")
    signed = models.JSONField(default=list, blank=True, help_text="Cautions, and by whom.")
    result = models.CharField(max_length=10, choices=RESULTS, blank=True)
    why = models.CharField(max_length=200, blank=True)
    notes = models.TextField(blank=True)
    photo = models.CharField(max_length=64, blank=True)
    hands = models.JSONField(default=list, blank=True, help_text="The list, as ticked.")
    created = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)

    objects = RunQuerySet.as_manager()

    class Meta:
        constraints: ClassVar = [
            models.UniqueConstraint(
                fields=["address"],
                condition=models.Q(state__in=ACTIVE),
                name="one_burn_a_machine",
            )
        ]

    def __str__(self) -> str:
        return f"{self.job} ({self.state})"

    def note(self, **fields: Any) -> None:
        """Write some fields, and only these: others belong to whoever presses a button.

        The worker holds an object it loaded long ago; saved whole, it would
        write back a stop that was asked for meanwhile.
        """
        type(self).objects.filter(pk=self.pk).update(**fields)
        for name, value in fields.items():
            setattr(self, name, value)

    @property
    def is_active(self) -> bool:
        """Whether it is prepared or runs."""
        return self.state in ACTIVE

    @property
    def waits(self) -> bool:
        """Whether the program waits for its operator."""
        return self.held == "waiting"

    @property
    def trimmed(self) -> dict[str, float] | None:
        """Speed in mm/s and power in % as trimmed last; None where they were not."""
        if not self.trims:
            return None
        _, feed, power = self.trims[-1]
        burn = self.spec["burn"]
        found = {
            "speed_mm_s": round(burn["speed_mm_s"] * feed / 100, 2),
            "power": round(min(burn["power"] * power / 100, 100.0), 2),
        }
        return found if feed != power or feed != _AS_SAID else None

    @property
    def share(self) -> float:
        """How much is burned, 0..1, by the machine's clock."""
        return min(self.clock_s / self.planned_s, 1.0) if self.planned_s else 0.0


class LessonQuerySet(models.QuerySet["Lesson"]):
    """Questions about what pieces taught."""

    def told(self) -> "LessonQuerySet":
        """Those that say something and are not left out, oldest first."""
        return self.filter(fault="", left_out=False).order_by("pk")

    def of_recipe(self, name: str, machine: str, substrate: str) -> "LessonQuerySet":
        """Those of pieces that were burned by a recipe, on its machine and substrate."""
        return self.filter(
            run__spec__burn__recipe=name,
            run__spec__machine__name=machine,
            run__spec__substrate__name=substrate,
        ).select_related("run")


class Lesson(models.Model):
    """What the photo of a finished piece says of its tones; or why it says nothing.

    ``corners`` are the piece's four points as shares of the photo's sides. ``tones``
    holds burned share 0..1, L* expected, L* seen, and how much of the piece speaks of
    it, 0..1.
    """

    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="lesson")
    photo = models.CharField(max_length=64)
    corners = models.JSONField(default=list, blank=True)
    found_by = models.CharField(max_length=10, blank=True)
    fault = models.CharField(max_length=300, blank=True)
    fits = models.FloatField(default=0.0, help_text="Rank correlation.")
    off = models.FloatField(default=0.0, help_text="RMS in L*.")
    turned = models.PositiveSmallIntegerField(default=0)
    tones = models.JSONField(default=list, blank=True)
    left_out = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now=True)

    objects = LessonQuerySet.as_manager()

    def __str__(self) -> str:
        return f"What {self.run} taught"


class FileBurn(models.Model):
    """One burn of a file of G-code that is no job's."""

    file = models.ForeignKey(GcodeFile, on_delete=models.CASCADE, related_name="burns")
    machine = models.ForeignKey(Machine, null=True, on_delete=models.SET_NULL)
    address = models.CharField(max_length=200)
    state = models.CharField(max_length=10, choices=Run.STATES, default="running")
    operator = models.CharField(max_length=40)
    hands = models.JSONField(default=list, help_text="The list, as ticked.")
    seen = models.JSONField(default=list, help_text="Cautions it was burned in spite of.")
    placing = models.JSONField(default=dict, help_text="Where and how strong.")
    planned_s = models.FloatField(default=0.0)
    clock_s = models.FloatField(default=0.0)
    rows = models.PositiveIntegerField(default=0)
    rows_done = models.PositiveIntegerField(default=0)
    output_sha256 = models.CharField(max_length=64, blank=True)
    error = models.CharField(max_length=300, blank=True)
    created = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar = ["-pk"]

    def __str__(self) -> str:
        return f"{self.file} ({self.state})"

    @property
    def link_name(self) -> str:
        """What the link calls it; a job's burn is called by its number."""
        return f"file {self.pk}"
