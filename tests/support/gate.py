"""Past the gate, as an operator goes: the cautions signed off first, one by one."""

from workshop.jobs.hands.ticks import hand_list, tick
from workshop.jobs.models import Job
from workshop.jobs.ticket.findings import full_check
from workshop.jobs.ticket.signing import sign_off


def sign_all(job):
    """Sign the cautions of a job's present state and tick its list, past its pages."""
    job = Job.objects.with_all().get(pk=job.pk)
    sign_off(job, "mk", full_check(job)[0])
    tick_all(job)


def tick_all(job):
    """Tick all lines of a job's list for the hands."""
    job = Job.objects.with_all().get(pk=job.pk)
    for one in hand_list(job):
        tick(job, one.line.slug, "mk", done=True)


def signed(client, job):
    """Sign the cautions of a job's present state, tick its list; returns its number."""
    tick_all(job)
    found = client.get(f"/jobs/{job.number}/findings/").context["findings"]
    for _, one, signature, _ in found:
        if one.severity == "caution" and not signature:
            words = {"name": "mk", "rests_on": one.rests_on}
            client.post(f"/jobs/{job.number}/sign/{one.rule}/", words)
    return job.number


def signed_gcode(client, job):
    """The G-code of a job whose cautions are signed."""
    answer = client.get(f"/jobs/{signed(client, job)}/files/gcode/")
    return b"".join(answer.streaming_content)
