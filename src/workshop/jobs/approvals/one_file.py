"""A proof as one file that needs nothing else: pictures, words, and a way to answer."""

import base64

from django.template.loader import render_to_string

from engraving.jobspec import JobSpec
from workshop.jobs.exports.proof_sheet import proof_pages
from workshop.jobs.models import Approval
from workshop.jobs.pictures.store import proof_path


def one_file(approval: Approval) -> str:
    """Return a proof as HTML with its pictures inside; it asks no network for anything."""
    pictures = [
        base64.b64encode(proof_path(approval.token, at).read_bytes()).decode("ascii")
        for at in range(len(approval.shown))
    ]
    shown = list(zip(approval.shown, pictures, strict=True))
    return render_to_string("jobs/proof_file.html", {"approval": approval, "shown": shown})


def printed(approval: Approval) -> bytes:
    """Return a proof as a PDF to be signed: a page for each take, as it was shown."""
    return proof_pages(
        [
            (approval.job, JobSpec.model_validate(one["spec"]), one["name"])
            for one in approval.shown
        ]
    )
