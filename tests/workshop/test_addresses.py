"""Every address with a wrong id or number, and every field with what is no number."""

import re
from urllib.parse import quote

import pytest
from django.urls import URLPattern, get_resolver

from engraving.jobspec import JobSpec
from support.jobs import changed
from support.pages import read
from workshop.bench.models import Run
from workshop.jobs.cards.opening import open_card
from workshop.jobs.models import STATIONS
from workshop.jobs.revisions.writer import change, spec_of
from workshop.jobs.stations.registry import station_of
from workshop.jobs.takes import takes

NO_NUMBERS = ["nan", "-inf", "1e308", "²", "9" * 5000]
HX = {"HX-Request": "true"}


def _patterns(resolver=None, start=""):
    for one in (resolver or get_resolver()).url_patterns:
        route = start + str(one.pattern)
        if isinstance(one, URLPattern):
            yield route
        else:
            yield from _patterns(one, route)


ROUTES = sorted({one for one in _patterns() if "<" in one and "static" not in one})
INT, TEXT = re.compile(r"<int:\w+>"), re.compile(r"<\w+(?::\w+)?>|<str:\w+>")


@pytest.mark.parametrize("route", ROUTES)
@pytest.mark.parametrize("way", ["get", "post"])
def test_a_wrong_id_is_answered_in_words(client, ticket, route, way):
    """No traceback for an id that is not there, nor for one no base can hold."""
    for number in ("999", "99999999999999999999"):
        address = "/" + TEXT.sub(
            "burn" if "<int" in route else "soup", INT.sub(number, route)
        )
        answer = getattr(client, way)(address, headers=HX)
        assert answer.status_code in (302, 400, 404, 405, 422), (
            address,
            answer.status_code,
        )


@pytest.mark.parametrize("route", [one for one in ROUTES if "<int:number>" in one])
@pytest.mark.parametrize("way", ["get", "post"])
def test_the_rest_of_an_address_may_be_anything(client, ticket, route, way):
    rest = TEXT.sub("²", INT.sub("0", route.replace("<int:number>", str(ticket.number))))
    for query in ({}, dict.fromkeys("xywh", "inf"), dict.fromkeys(("px", "py", "at"), "²")):
        answer = getattr(client, way)(f"/{rest}", query, headers=HX)
        assert answer.status_code < 500
        if answer.streaming:
            b"".join(answer.streaming_content)


@pytest.mark.parametrize("text", NO_NUMBERS)
@pytest.mark.parametrize(
    "station", [one for one in STATIONS if station_of(JobSpec(), one).form]
)
def test_no_field_takes_what_is_no_number(client, ticket, station, text):
    """It is refused with a sentence, or passed over; the job stays one that can be read."""
    if station == "card":
        ticket = open_card("power-speed", ticket.machine, ticket.substrate)
    address = f"/jobs/{ticket.number}/{'artwork' if station == 'card' else station}/"
    page = read(client.get(address, headers=HX))
    names = sorted(set(re.findall(r'name="([a-z_0-9]+)"', page)))
    # All at once; where they do not go together each is tried by itself.
    data = {"changed": names, **dict.fromkeys(names, text)}
    assert client.post(address, data, headers=HX).status_code < 500
    ticket.refresh_from_db()
    JobSpec.model_validate(ticket.spec_data)
    assert client.get(address, headers=HX).status_code == 200


@pytest.mark.parametrize("text", NO_NUMBERS)
def test_nothing_else_takes_what_is_no_number(client, ticket, text):
    job, run = ticket.number, Run.objects.create(job=ticket, spec=ticket.spec_data)
    spec = changed(spec_of(ticket), operations=[{"kind": "raster"}, {"kind": "cut"}])
    change(ticket, spec, "Cut")
    takes.pin(takes.keep(ticket))
    change(ticket, changed(spec, burn={"power": 21}), "Power")
    takes.pin(takes.keep(ticket))
    asked = [
        ("get", "/", {"find": text}), ("get", "/recipes/new/", {"machine": text, "substrate": text}),
        ("get", "/shelf/", {"find": text}), ("get", f"/jobs/{job}/contact/", dict.fromkeys(("x", "y", "closer"), text)),
        ("get", f"/jobs/{job}/files/proof/", {"pixels": text}),
        ("get", f"/jobs/{job}/", {"take": text}),
        ("post", f"/jobs/{job}/pick/", {"x": text, "y": text}),
        ("post", f"/jobs/{job}/takes/between/", {"share": text}),
        ("post", f"/jobs/{job}/takes/strip/", dict.fromkeys(("x", "y", "width", "height"), text)),
        ("post", f"/jobs/{job}/camera/lay/", {"at": text}),
        ("post", f"/jobs/{job}/marks/", dict.fromkeys(("kind", "x_mm", "y_mm", "width_mm"), text)),
        ("post", f"/bench/jobs/{job}/walk/", {"box": text, "power": text}),
        ("post", f"/bench/runs/{run.pk}/keep/", {"rating": text}),
        *[("post", f"/jobs/{job}/operations/{verb}/", {"at": at, "to": text, "point": f"{text} {text}"})
          for verb in ("look", "move", "ring", "on", "remove", "all") for at in ("1", text)],
    ]  # fmt: skip
    for way, address, data in asked:
        answer = getattr(client, way)(address, data, headers=HX)
        assert answer.status_code < 500, address
        if answer.streaming:
            b"".join(answer.streaming_content)
    page = read(client.get(f"/jobs/{job}/place/", headers=HX))
    names = sorted(set(re.findall(r'name="([a-z_0-9]+)"', page)))
    data = {"at": "1", "changed": names, **dict.fromkeys(set(names) - {"at"}, text)}
    answer = client.post(f"/jobs/{job}/operations/", data, headers=HX)
    assert answer.status_code < 500
    client.cookies["operation"] = quote(text)
    assert client.get(f"/jobs/{job}/place/", headers=HX).status_code == 200
