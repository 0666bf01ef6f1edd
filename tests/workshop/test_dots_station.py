"""The Dots station and its contact sheet."""

import json
import re

import pytest

from engraving.dots import FAMILIES, METHODS
from support.jobs import changed
from support.pages import read
from workshop.jobs.revisions.writer import change, spec_of


def dots(ticket):
    return spec_of(ticket).dots


@pytest.mark.parametrize("family", FAMILIES)
def test_a_kind_leads_to_its_methods_and_their_fields(act, ticket, family):
    # an ordered method first, so that every kind is a change but its own
    act("dots", family="ordered")
    page = read(act("dots", family=family))
    method = METHODS[dots(ticket).method]
    assert method.family == family
    assert method.reason in page.replace("&#x27;", "'")
    for name, one in METHODS.items():
        assert (f'id="m-{name}"' in page) == (one.family == family)


@pytest.mark.parametrize("method", METHODS)
def test_every_setting_of_a_method_is_kept_and_the_others_are_not_lost(act, ticket, method):
    values = {"scan": "one-way", "noise": "7", "edges": "40", "level": "35", "matrix": "4",
              "ruling_cm": "12", "angle_deg": "-20", "least_mark_mm": "0.2", "most_mark_mm": "0.7",
              "every": "3", "wavelength_mm": "9", "swing_mm": "2", "floor": "15", "ceiling": "85",
              "steps": "12"}  # fmt: skip
    act("dots", **values)
    kept = dots(ticket)
    page = read(act("dots", method=method, family=METHODS[method].family))
    assert dots(ticket) == kept.model_copy(update={"method": method})
    for name in METHODS[method].settings:
        shown = (
            "scan-serpentine"
            if name == "scan"
            else "matrix-4"
            if name == "matrix"
            else f"f-{name}"
        )
        assert f'id="{shown}"' in page


def test_ruling_is_tied_to_inches_and_cells(act, ticket):
    act("dots", method="round", family="screen", ruling_inch="50.8")
    assert dots(ticket).ruling_cm == pytest.approx(20)
    page = read(act("dots", ruling_mm="0.4"))
    assert dots(ticket).ruling_cm == pytest.approx(25)
    assert "It can show 17 tones at 254 dpi" in page
    assert "marks will run together" not in page
    assert "marks will run together" in read(act("dots", ruling_cm="60"))


def test_measured_patches_are_read_or_refused_at_their_field(act, ticket):
    page = read(act("dots", mode="measured"))
    assert "there are no measured patches yet" in page.lower()
    page = read(act("dots", mode="measured", patches="0 78, ten 66"))
    assert "Type pairs of burned share" in page
    act("dots", mode="measured", patches="0 78, 10 66; 50 38, 100 24")
    assert spec_of(ticket).reproduction.patches == ((0, 78), (10, 66), (50, 38), (100, 24))


def test_what_the_beam_cannot_place_is_counted(act, ticket):
    assert "not known of this machine" in read(act("dots", noise="1"))
    spec = changed(spec_of(ticket), machine={"response_ms": 2.0})
    change(ticket, spec, "Slow beam")
    page = read(act("dots", runs="keep"))
    smear = spec.burn.speed_mm_s * 0.002
    assert f"that smears {smear:.3f} mm" in page
    count = int(re.search(r"([\d,]+) short runs", page)[1].replace(",", ""))
    assert count > 0
    assert f"{count:,} short runs, dropped" in read(act("dots", runs="drop"))


class TestContactSheet:
    def page(self, client, ticket, **wanted):
        return client.get(f"/jobs/{ticket.number}/contact/", wanted)

    def test_every_method_on_the_same_crop(self, client, ticket):
        page = self.page(client, ticket, x=200, y=150).content.decode()
        pictures = [
            a.replace("&amp;", "&") for a in re.findall(r'<img src="([^"]+)"', page)
        ]
        assert len(pictures) == len(METHODS)
        assert page.count("is-chosen") == 1
        for address in (pictures[0], pictures[-1]):
            answer = client.get(address)
            assert answer.content.startswith(b"\xff\xd8")
            assert "immutable" in answer["Cache-Control"]

    def test_one_method_at_several_settings_and_closer(self, client, ticket, act):
        act("dots", method="wavy", family="line")
        page = self.page(client, ticket, what="settings", closer=4).content.decode()
        assert page.count("<li>") > 10
        assert "59 × 44 dots" in page

    def test_choosing_a_cell_sets_it(self, client, ticket, act):
        cell = dots(ticket).model_copy(update={"method": "diamond", "angle_deg": 15.0})
        act("dots", choose=json.dumps(cell.model_dump(mode="json")))
        assert dots(ticket) == cell
        assert "no such cell" in read(act("dots", choose="{"))
        assert 'class="fault"' in read(act("dots", choose='{"steps": 9999}'))

    def test_nonsense_gets_a_sentence_and_a_past_key_is_gone(self, client, ticket, act):
        for bad in ({"x": "left"}, {"closer": 99}, {"closer": 0}):
            assert self.page(client, ticket, **bad).status_code == 422
        page = self.page(client, ticket).content.decode()
        address = re.search(r'<img src="([^"]+)"', page)[1].replace("&amp;", "&")
        assert client.get(address.split("&dots=")[0] + "&dots={").status_code == 422
        act("tone", gamma="2")
        assert client.get(address).status_code == 410

    def test_kept_dots_have_nothing_to_choose(self, client, ticket):
        spec = spec_of(ticket)
        whole = {"width_mm": 80 * spec.size.pitch_mm, "height_mm": 60 * spec.size.pitch_mm}
        change(ticket, changed(spec, artwork={"keep_dots": True}, size=whole), "Kept")
        assert self.page(client, ticket).status_code == 422
