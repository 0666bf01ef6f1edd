"""The Tone station: every control is kept, put back, passed over and compared."""

import pytest

from engraving.jobspec import GROUPS, MOST_SHADES
from support.pages import read
from workshop.jobs.pictures.windows import view_keys
from workshop.jobs.revisions.writer import spec_of

VALUES = {
    "exposure": 0.5, "offset": 2, "input_black": 10, "gamma": 1.4, "input_white": 240,
    "output_black": 8, "output_white": 250, "brightness": 5, "contrast": -20, "shadows": 30,
    "highlights": -10, "local_amount": 40, "local_mm": 12, "local_limit": 3, "denoise": 20,
    "blur_dots": 0.5, "sharpen_amount": 80, "sharpen_dots": 2, "sharpen_threshold": 3,
    "detail_opacity": 25, "detail_dots": 6, "detail_blend": "hard-light",
}  # fmt: skip


def tone(ticket):
    return spec_of(ticket).tone


def test_every_control_is_kept_and_put_back(act, ticket):
    plain = tone(ticket)
    assert (
        act("tone", **{name: str(value) for name, value in VALUES.items()}).status_code
        == 200
    )
    assert {name: getattr(tone(ticket), name) for name in VALUES} == VALUES
    act("tone", reset="on")
    assert tone(ticket) == plain


@pytest.mark.parametrize("group", GROUPS)
def test_what_is_passed_over_keeps_its_value_and_changes_the_picture(act, ticket, group):
    act("tone", **{name: str(value) for name, value in VALUES.items()}, shade="2",
        curve="[[0,0],[128,100],[255,255]]")  # fmt: skip
    before, keys = tone(ticket), view_keys(spec_of(ticket))
    act("tone", **{f"use_{group}": False})
    after = tone(ticket)
    assert after.off == (group,)
    assert after.model_copy(update={"off": ()}) == before
    assert view_keys(spec_of(ticket))["toned"] != keys["toned"]
    # a control that is moved counts again
    name = GROUPS[group][0]
    moved = {"curve": "[[0,0],[99,120],[255,255]]", "shade": "1"}.get(name, "3")
    act("tone", **{name: moved})
    assert group not in tone(ticket).off


def test_shades_stack_and_stop_at_the_last(act, ticket):
    act("tone", shade="2")
    assert "2 shades lighter" in read(act("tone", brightness="1"))
    act("tone", shade="99")
    assert tone(ticket).shade == MOST_SHADES
    act("tone", shade="-99")
    assert tone(ticket).shade == -MOST_SHADES


def test_a_curve_that_cannot_be_is_refused_with_a_sentence(act, ticket):
    for bad in ("[[0,", "[[9]]", "[[200,0],[100,255]]", '{"a":1}'):
        answer = read(act("tone", curve=bad))
        assert 'class="fault"' in answer
        assert tone(ticket).curve == ()


def test_without_tone_the_picture_is_the_source(client, act, ticket):
    act("tone", gamma="3", brightness="40")
    key = view_keys(spec_of(ticket))["toned"]
    window = {"left": 0, "top": 0, "cols": 900, "rows": 675, "w": 300, "h": 225}
    address = f"/jobs/{ticket.number}/picture/toned/{key}/"
    with_tone = client.get(address, window).content
    without = client.get(address, {**window, "without": "tone"}).content
    assert with_tone != without
    act("tone", on=False)
    plain = client.get(
        f"/jobs/{ticket.number}/picture/toned/{view_keys(spec_of(ticket))['toned']}/",
        window,
    )
    assert plain.content == without


def test_faults_stand_at_their_fields_and_open_their_fold(act):
    answer = read(act("tone", input_black="250", input_white="200"))
    assert "above the black point, 250" in answer
    answer = read(act("tone", local_mm="-3"))
    assert 'data-fold="local" open' in answer


def test_auto_tone_says_what_it_did_until_something_else_is_set(act, ticket):
    page = read(act("tone", auto="on"))
    assert "sharpened" in page
    assert "steps of lightness." in page
    made = tone(ticket)
    assert made.sharpen_amount > 0
    again = read(act("tone", auto="on"))
    assert tone(ticket) == made
    assert "steps of lightness." in again
    assert "steps of lightness." not in read(act("tone", gamma="2.2"))
    assert ticket.head.label


def test_a_mostly_dark_picture_is_told_with_its_number(act):
    page = read(act("tone", output_white="40"))
    assert "heat and smoke build up on wood" in page
