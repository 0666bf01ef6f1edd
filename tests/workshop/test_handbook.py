"""The handbook: every station and fold has its entry, and every link leads somewhere."""

import re
from pathlib import Path

import pytest

from workshop import handbook
from workshop.handbook import book
from workshop.jobs import stations
from workshop.jobs.models import STATIONS

pytestmark = pytest.mark.django_db
TEMPLATES = list(Path(stations.__file__).parent.rglob("*.html"))


def test_every_station_and_every_fold_has_its_entry():
    assert all(book.entry(station, station) for station in STATIONS)
    asked = [
        pair
        for one in TEMPLATES
        for pair in re.findall(r'{% ask "([a-z]+)" "([a-z-]+)" %}', one.read_text())
    ]
    folds = sum(one.read_text().count('<details class="fold') for one in TEMPLATES)
    assert len(asked) == folds > 30
    assert [pair for pair in asked if book.entry(*pair) is None] == []


def test_every_fold_has_a_name_of_its_own():
    """By it the one that is open is found again in an answer that has other folds."""
    for one in TEMPLATES:
        for fold in re.findall(
            r"<details class=\"fold\"([^>]*data-fold[^>]*)>", one.read_text()
        ):
            name = re.search(r' data-fold="(\w+)"', fold)[1]
            assert f'id="fold-{name}"' in fold, (one, name)


def test_every_link_and_picture_of_its_pages_is_there():
    for page in book.ORDER:
        text = (book.PAGES / f"{page}.md").read_text()
        for name, anchor in re.findall(r"\]\(([a-z]+)\.md#([a-z-]+)\)", text):
            assert book.entry(name, anchor), (page, name, anchor)
        for name in re.findall(r"\]\((img/[^)]+)\)", text):
            assert (book.PAGES / name).exists(), (page, name)
    docs = Path(handbook.__file__).parents[3] / "docs" / "handbook"
    assert docs.resolve() == book.PAGES


def test_each_entry_says_when_and_gives_a_rule_of_thumb():
    for one in book.all_entries():
        if one.page != "words":
            assert "**When.**" in one.text, one
            assert "**Rule of thumb.**" in one.text, one


@pytest.mark.parametrize(
    ("asked", "here"),
    [("overscan", "run-up"), ("line interval", "row distance"), ("dithering", "dots")],
)
def test_words_operators_say_are_found(client, shelf, asked, here):
    page = client.get("/", {"find": asked}, headers={"HX-Request": "true"})
    said, _ = book.find(asked)
    assert here in [one.here for one in said]
    assert page.status_code == 200
    assert here in page.content.decode()


def test_a_page_that_does_not_exist_is_not_there(client):
    assert client.get("/handbook/tone/").status_code == 200
    assert client.get("/handbook/soup/").status_code == 404
    assert client.get("/handbook/tone/soup/").status_code == 404
    assert "Nothing has all" in client.get("/handbook/?q=soup").content.decode()
