"""Takes: kept, opened, compared, made from two, burned on scrap."""

import json
import re
from http.cookies import SimpleCookie

import numpy as np
import pytest
from pydantic import ValidationError

from engraving.jobspec import JobSpec, interpolate_specs
from support.jobs import changed
from support.pages import read
from workshop.jobs.models import Job, Take
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import spec_of


@pytest.fixture
def post(client, ticket):
    def send(verb, take=None, **data):
        middle = f"{take.pk}/{verb}/" if take else f"{verb}/" if verb else ""
        answer = client.post(
            f"/jobs/{ticket.number}/takes/{middle}", data, headers={"HX-Request": "true"}
        )
        ticket.refresh_from_db()
        return answer

    return send


@pytest.fixture
def pair(post, act):
    """Take A as opened; take B lighter, in diamonds, at half the power."""
    post("")
    act("tone", gamma="2", input_black="20")
    act("dots", method="diamond", family="screen")
    act("burn", power="16.5")
    post("", name="Light")
    return tuple(Take.objects.order_by("pk"))


def test_opening_a_take_restores_everything_and_can_be_undone(client, post, pair, ticket):
    first, second = pair
    assert (first.letter, second.letter, second.name) == ("A", "B", "Light")
    before = spec_of(ticket)
    assert "Take A opened" in post("open", first).content.decode()
    assert spec_of(ticket).model_dump(mode="json") == first.spec
    client.post(f"/jobs/{ticket.number}/undo/")
    ticket.refresh_from_db()
    assert spec_of(ticket) == before


def test_cards_show_only_what_differs(client, post, pair, ticket):
    page = read(client.get(f"/jobs/{ticket.number}/"))
    cards = re.findall(r"<article class=\"take.*?</article>", page, re.DOTALL)
    assert len(cards) == 2
    words = [re.findall(r"<i(?: [^>]*)?>(.*?)</i>", card) for card in cards]
    assert words[0] == ["Floyd–Steinberg", "black 0", "and 2 more"]
    assert words[1] == ["Diamond", "black 20", "and 2 more"]
    assert "is-current" in cards[1]
    assert "is-current" not in cards[0]
    piece = json.loads(re.search(r'data-piece="(.*?)"', cards[0])[1].replace("&quot;", '"'))
    window = {"left": 0, "top": 0, "cols": 100, "rows": 100, "w": 100, "h": 100}
    base = f"/jobs/{ticket.number}/picture/proof/{piece['key-proof']}/"
    assert client.get(base, {**window, "take": pair[0].pk}).status_code == 200
    assert client.get(base, window).status_code == 410
    assert client.get(base, {**window, "take": "99"}).status_code == 422
    thumb = re.search(r'<img src="([^"]+)"', cards[0])[1]
    assert client.get(thumb).content.startswith(b"\x89PNG")


def test_a_state_is_kept_once(post, pair, ticket):
    again = post("")
    assert again.status_code == 422
    assert "kept already, as take B" in again.content.decode()
    assert ticket.takes.count() == 2


def test_named_pinned_dropped_and_letters_come_again(post, act, pair, ticket):
    first, second = pair
    post("name", first, name="  As   it was ")
    post("pin", first)
    first.refresh_from_db()
    assert (first.name, first.pinned) == ("As it was", True)
    post("pin", first)
    first.refresh_from_db()
    assert not first.pinned
    post("drop", first)
    act("burn", power="20")
    post("")
    assert sorted(ticket.takes.values_list("letter", flat=True)) == ["A", "B"]
    assert post("burn", second).status_code == 404


def test_side_by_side_wants_a_pin_and_takes_four(client, post, act, pair, ticket):
    address = f"/jobs/{ticket.number}/takes/compare/"
    assert client.get(address).status_code == 422
    post("pin", pair[0])
    page = read(client.get(address))
    assert page.count('class="pane"') == 2
    assert "Now" in page
    assert "Make one between" not in page
    for power in (20, 21, 22, 23):
        act("burn", power=str(power))
        post("")
    for take in ticket.takes.exclude(pk=pair[0].pk)[:3]:
        post("pin", take)
    assert client.get(address).content.decode().count('class="pane"') == 4
    refused = post("pin", ticket.takes.filter(pinned=False).first())
    assert refused.status_code == 422
    assert "Four takes" in refused.content.decode()


def test_one_in_between(post, pair, ticket):
    for take in pair:
        post("pin", take)
    answer = post("between", share="25").content.decode()
    assert "Take C made, A to B, 25 %" in answer
    spec = spec_of(ticket)
    assert spec.tone.gamma == pytest.approx(1.25)
    assert spec.tone.input_black == pytest.approx(5)
    assert spec.burn.power == pytest.approx(33 - 0.25 * 16.5)
    assert spec.dots.method == "floyd-steinberg"  # the nearer one's
    bad = post("between", share="140")
    assert "It can be at most 100 %" in bad.content.decode()
    assert bad["HX-Retarget"] == "#panel"  # the ticket's stations stay where they are


def test_between_is_each_end_and_refuses_what_no_job_is():
    first = JobSpec()
    second = changed(
        first, tone={"curve": [[0, 10], [255, 200]], "shade": 4}, burn={"passes": 4}
    )
    assert interpolate_specs(first, second, 0) == first
    assert interpolate_specs(first, second, 1) == second
    half = interpolate_specs(first, second, 0.5)
    assert (half.tone.shade, half.burn.passes) == (2, 2)
    third = changed(second, tone={"curve": [[0, 30], [255, 100]]})
    assert interpolate_specs(second, third, 0.5).tone.curve == ((0, 20), (255, 150))
    black = changed(first, tone={"input_black": 200, "input_white": 255})
    white = changed(first, tone={"input_black": 0, "input_white": 1})
    mixed = interpolate_specs(black, white, 0.5)
    assert mixed.tone.input_white - mixed.tone.input_black >= 1
    cell = changed(first, size={"dot_pitch_mm": 0.02})
    with pytest.raises(ValidationError):
        interpolate_specs(
            cell, changed(first, size={"pitch_mm": 0.5, "dot_pitch_mm": None}), 0.45
        )


def test_a_strip_burns_the_very_dots_of_each_take(client, post, pair, ticket):
    for take in pair:
        post("pin", take)
    answer = post("strip", width="8", height="6", x="2", y="-3")
    strip = Job.objects.order_by("-number").first()
    assert answer["HX-Redirect"].endswith(f"/jobs/{strip.number}/")
    spec = spec_of(strip)
    assert spec.keeps_dots
    assert strip.name == "Scene, strip AB, burned as A"  # B has half the power
    assert [line.text for line in spec.lettering.lines] == ["A", "B"]
    dots = pipeline().dots(spec).unpack()
    across, down, gap = 80, 60, 20
    for i, take in enumerate(pair):
        source = JobSpec.model_validate(take.spec)
        size = source.size
        left, top = round(size.cols / 2 + 20 - 40), round(size.rows / 2 + 30 - 30)
        wanted = pipeline().dots(source).window(left, top, across, down)
        start = i * (across + gap)
        assert np.array_equal(dots[:down, start : start + across], wanted)
    assert not dots[:down, across : across + gap].any()
    assert dots[down:].any()  # its letters
    page = read(client.get(f"/jobs/{strip.number}/findings/"))
    assert "finding is-stop" not in page


def test_a_strip_that_cannot_be_says_why(post, pair, act, ticket):
    for take in pair:
        post("pin", take)
    assert "at least 1 mm" in post("strip", width="0.2", height="6").content.decode()
    act("dots", method="power", family="power")
    post("")
    post("pin", ticket.takes.last())
    assert "continuous power" in post("strip", width="8", height="6").content.decode()
    post("drop", ticket.takes.last())
    act("blank", pitch="0.2")
    post("")
    post("pin", ticket.takes.last())
    assert "different row pitches" in post("strip", width="8", height="6").content.decode()
    Take.objects.exclude(pk=pair[0].pk).delete()
    assert "two takes or more" in post("strip", width="8", height="6").content.decode()


def test_cards_a_page_shows_already_are_not_sent_once_more(client, ticket, act, post):
    post("")
    page = read(client.get(f"/jobs/{ticket.number}/tone/"))
    [shown] = re.findall(r'id="takes" data-shown="(\w+)"', page)

    def opened(station, **cookies):
        client.cookies.update(SimpleCookie(cookies))
        told = {"HX-Request": "true", "X-Takes": shown}
        answer = client.get(f"/jobs/{ticket.number}/{station}/", headers=told)
        return 'class="take' in read(answer)

    assert not opened("dots")
    assert opened("tone", units="in")
    client.cookies.clear()
    assert not opened("tone")
    Take.objects.filter(job=ticket).update(pinned=True)
    assert opened("tone")
    Take.objects.filter(job=ticket).update(pinned=False)
    assert not opened("tone")
    act("tone", brightness="9")
    assert opened("tone")
