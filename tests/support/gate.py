"""Past the gate, as an operator goes: the cautions signed off first."""


def signed(client, job):
    """Sign the cautions of a job's present state; returns its number."""
    client.post(f"/jobs/{job.number}/sign/", {"initials": "mk"})
    return job.number


def signed_gcode(client, job):
    """The G-code of a job whose cautions are signed."""
    answer = client.get(f"/jobs/{signed(client, job)}/files/gcode/")
    return b"".join(answer.streaming_content)
