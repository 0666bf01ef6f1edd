"""A proof sent to whom it is for, and what came back.

What was shown is kept as it was: pictures and descriptions, whatever becomes of the
ticket and its takes.
"""

import io
import secrets
from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils import timezone
from PIL import Image

from engraving.errors import InputError
from engraving.jobspec import JobSpec
from workshop.jobs.models import Approval, Job
from workshop.jobs.pictures.pieces import piece_key, piece_picture
from workshop.jobs.pictures.store import proof_path
from workshop.jobs.revisions.writer import change, relations_of, spec_of
from workshop.jobs.takes.takes import take_spec
from workshop.shell.services import show_lengths

MOST_SHOWN = 6
_LONGEST_PX, _QUALITY = 1100, 88
_PAPER = "#e6decd"
_MOST_LETTERS = 2000


def ask(job: Job, takes: Collection[int], message: str) -> Approval:
    """Make a proof of a ticket as it stands, or of some of its takes, to be sent.

    Parameters
    ----------
    takes : collection of int
        Keys of takes to choose from; none shows the ticket as it is now.

    Raises
    ------
    InputError
        When these are too many, or none of the ticket's.
    """
    chosen = [take for take in job.takes.all() if take.pk in takes]
    if takes and not chosen:
        raise InputError("These takes are gone; choose again.")
    if len(chosen) > MOST_SHOWN:
        raise InputError(f"{MOST_SHOWN} takes are shown at most.")
    named = [
        (", ".join(filter(None, (take.letter, take.name))), take_spec(take), take.relations)
        for take in chosen
    ] or [("", spec_of(job), relations_of(job))]
    shown = [_shown(name, spec, relations) for name, spec, relations in named]
    approval = Approval(
        job=job,
        token=secrets.token_urlsafe(24),
        message=message[:_MOST_LETTERS],
        shown=shown,
    )
    for at, (_, spec, _) in enumerate(named):
        _keep_picture(approval, at, spec)
    approval.save()
    return approval


def _shown(name: str, spec: JobSpec, relations: dict[str, Any]) -> dict[str, Any]:
    substrate = ", ".join(filter(None, (spec.substrate.name, spec.substrate.colour)))
    return {
        "name": name,
        "key": piece_key(spec),
        "size": show_lengths(spec.size.width_mm, spec.size.height_mm, 1),
        "blank": spec.blank.name,
        "substrate": substrate,
        "spec": spec.model_dump(mode="json"),
        "relations": relations,
    }


def _keep_picture(approval: Approval, at: int, spec: JobSpec) -> None:
    with Image.open(io.BytesIO(piece_picture(spec, _LONGEST_PX).data)) as piece:
        whole = piece.convert("RGBA")
    ground = Image.new("RGBA", whole.size, _PAPER)
    ground.alpha_composite(whole)
    path = proof_path(approval.token, at)
    path.parent.mkdir(parents=True, exist_ok=True)
    ground.convert("RGB").save(path, "JPEG", quality=_QUALITY)


@transaction.atomic
def answer(approval: Approval, chosen: int | None, name: str, remark: str) -> None:
    """Keep what somebody chose and wrote, with its time; the newest answer counts.

    Parameters
    ----------
    chosen : int or None
        Which of what was shown; None wants something changed first.

    Raises
    ------
    InputError
        When nothing was said that counts, or the proof was taken back.
    """
    fresh = Approval.objects.select_for_update().get(pk=approval.pk)
    if fresh.taken_back:
        raise InputError("This proof was taken back; please ask for the new one.")
    if chosen is not None and not 0 <= chosen < len(fresh.shown):
        raise InputError("Choose one of the answers.", field="chosen")
    name, remark = " ".join(name.split())[:100], remark.strip()[:_MOST_LETTERS]
    if not name:
        raise InputError("Please write your name.", field="name")
    if chosen is None and not remark:
        raise InputError("Please write what should be changed.", field="remark")
    fresh.chosen, fresh.name, fresh.remark = chosen, name, remark
    fresh.answered_at = timezone.now()
    fresh.save()
    approval.refresh_from_db()


def take_back(approval: Approval) -> None:
    """Let an address show nothing any more."""
    Approval.objects.filter(pk=approval.pk).update(taken_back=True)


def take_chosen(approval: Approval) -> bool:
    """Let the ticket be as what was chosen; return whether anything changed."""
    if approval.chosen is None:
        return False
    one = approval.shown[approval.chosen]
    spec = JobSpec.model_validate(one["spec"])
    label = f"As {approval.name} approved it"[:120]
    return change(approval.job, spec, label, "", one["relations"])


@dataclass(frozen=True)
class Standing:
    """How a ticket stands with whom it is for.

    Attributes
    ----------
    past : bool
        The ticket's picture is no longer the one that was chosen.
    """

    approval: Approval
    past: bool


def standing(job: Job, spec: JobSpec) -> Standing | None:
    """Return the newest answer of a ticket's proofs; None before there is one."""
    answered = job.approvals.exclude(answered_at=None).order_by("-answered_at").first()
    if answered is None:
        return None
    chosen = answered.chosen
    key = answered.shown[chosen]["key"] if chosen is not None else ""
    return Standing(answered, chosen is not None and key != piece_key(spec))
