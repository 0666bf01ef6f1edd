"""Somebody who uses the program from outside, and what its tables say meanwhile."""

import re
import sqlite3
import time
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any
from urllib.error import HTTPError
from urllib.parse import urlencode
from urllib.request import HTTPCookieProcessor, Request, build_opener

JOB = 402
_ENDED = ("done", "failed", "stopped")
_EDGE = "a7b0c9d4e1f2"
FORM = f"multipart/form-data; boundary={_EDGE}"


class Visitor:
    """Somebody with a browser."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._jar = CookieJar()
        self._opener = build_opener(HTTPCookieProcessor(self._jar))

    def get(self, path: str) -> str:
        """Return a page."""
        with self._opener.open(self.address + path, timeout=30) as answer:
            return str(answer.read().decode())

    def looks(self, path: str) -> int:
        """Return a page's status."""
        try:
            with self._opener.open(self.address + path, timeout=60) as answer:
                return int(answer.status)
        except HTTPError as error:
            return error.code

    def post(self, path: str, **words: str) -> int:
        """Post words; return the answer's status."""
        return self.said(path, urlencode(words).encode())[0]

    def said(self, path: str, body: bytes, kind: str = "") -> tuple[int, str]:
        """Post a body; return the answer's status and what it says."""
        headers = self.headers | ({"Content-Type": kind} if kind else {})
        try:
            ask = Request(self.address + path, body, headers)
            with self._opener.open(ask, timeout=60) as answer:
                return int(answer.status), str(answer.read().decode(errors="replace"))
        except HTTPError as error:
            return error.code, error.read().decode()

    def upload(self, name: str, data: bytes) -> tuple[int, str]:
        """Put a picture in; return the answer's status and what it says."""
        return self.said("/jobs/new/", form_of(name, data), FORM)

    @property
    def headers(self) -> dict[str, str]:
        """What a post is sent with."""
        token = next(one.value for one in self._jar if one.name == "csrftoken")
        cookies = "; ".join(f"{one.name}={one.value}" for one in self._jar)
        return {"X-CSRFToken": str(token), "Referer": self.address, "Cookie": cookies}


def form_of(name: str, data: bytes) -> bytes:
    """Return a picture as a browser's form sends it."""
    head = (
        f'--{_EDGE}\r\nContent-Disposition: form-data; name="files"; '
        f'filename="{name}"\r\nContent-Type: image/png\r\n\r\n'
    )
    return head.encode() + data + f"\r\n--{_EDGE}--\r\n".encode()


def asked(folder: Path, question: str) -> Any:
    """Ask the program's table of burns past the program."""
    with sqlite3.connect(folder / "workshop.sqlite3", timeout=20) as base:
        return base.execute(question).fetchone()


def pass_the_gate(visitor: Visitor, number: int) -> None:
    """Sign a job's cautions and tick its list for the hands."""
    page = visitor.get(f"/jobs/{number}/findings/")
    signing = rf'/jobs/{number}/sign/(\w+)/".*?name="rests_on" value="(\w+)"'
    for rule, grounds in re.findall(signing, page, re.DOTALL):
        words = {"name": "mk", "rests_on": grounds}
        visitor.post(f"/jobs/{number}/sign/{rule}/", **words)
    for slug in re.findall(r'id="tick-(\w+)"', visitor.get(f"/jobs/{number}/hands/")):
        visitor.post(f"/jobs/{number}/hands/{slug}/", done="1")


def burn(visitor: Visitor, folder: Path, number: int = JOB) -> int:
    """Sign a job, start its burn, and wait until it burns; return the burn's number."""
    visitor.get(f"/jobs/{number}/check/")
    pass_the_gate(visitor, number)
    visitor.post(f"/bench/jobs/{number}/burn/")
    [pk] = asked(folder, "select max(id) from bench_run")
    # From the moment it burns: one that is still being prepared may be given up.
    until = time.monotonic() + 120
    while asked(folder, f"select state from bench_run where id = {pk}")[0] == "waiting":  # noqa: S608
        if time.monotonic() > until:
            raise TimeoutError
        time.sleep(0.02)
    return int(pk)


def ended(folder: Path, pk: int, most_s: float = 180) -> tuple[str, int | None, str]:
    """Wait for the end of a burn; return state, dots off and its sentence."""
    until = time.monotonic() + most_s
    question = f"select state, dots_wrong, error from bench_run where id = {pk}"  # noqa: S608
    while time.monotonic() < until:
        state, wrong, error = asked(folder, question)
        if state in _ENDED:
            return state, wrong, error
        time.sleep(0.1)
    return "no end", None, ""
