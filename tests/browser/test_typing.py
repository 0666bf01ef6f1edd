"""What the hand types is what the job holds, however late the answers come."""

import re

import pytest
from playwright.sync_api import expect

from support.running import until
from support.typing import Hands
from support.walking import ask_base, held, open_station, small_ticket, unfold

HUMAN = (80, 300)
FAST = (0, 30)


def pytest_generate_tests(metafunc):
    """Try so many seeds as were asked for; at the fast pace one more."""
    if "seed" not in metafunc.fixturenames:
        return
    slow = metafunc.config.getoption("seeds")
    cases = [(seed, HUMAN) for seed in range(slow)] + [
        (seed, FAST) for seed in range(slow + 1)
    ]
    metafunc.parametrize(
        ("seed", "pace"), cases, ids=[f"{seed}-{pace[1]}ms" for seed, pace in cases]
    )


@pytest.fixture
def own_job(page, tmp_path):
    """A fresh ticket."""
    return small_ticket(page, tmp_path)


def at_rest(page):
    """Wait until nothing is typed, waiting or on its way."""
    page.keyboard.press("Escape")
    until(
        page,
        "!document.querySelector('.htmx-request') && window.performance.now() > 0",
    )
    page.wait_for_timeout(1200)
    until(page, "!document.querySelector('#stations .htmx-request')")


@pytest.mark.parametrize(
    ("wait", "pace"), [(100, HUMAN), (300, HUMAN), (600, HUMAN), (200, FAST)]
)
def test_passes_does_not_become_21(page, own_job, folder, pace, wait):
    """An answer must not drop the selection of the field that was stepped into."""
    hands = Hands(page, wait, pace)
    open_station(page, 5)
    hands.delay_answers()
    page.locator("#f-speed").focus()
    page.locator("#f-speed").select_text()
    hands.type("150")
    page.keyboard.press("Tab")
    page.wait_for_timeout(wait)
    hands.type("2")
    page.keyboard.press("Tab")
    at_rest(page)
    assert page.input_value("#f-passes") == "2"
    burn = held(folder, own_job)["burn"]
    assert (burn["speed_mm_s"], burn["passes"]) == (150, 2)


def test_levels_keep_every_digit(page, own_job, folder, seed, pace):
    """Five numbers typed in a row, by Tab from one to the next."""
    hands = Hands(page, seed, (90, 170) if pace == HUMAN else pace)
    open_station(page, 3)
    values = {
        "input_black": str(hands.random.randint(1, 60)),
        "gamma": f"{hands.random.randint(50, 300) / 100:g}",
        "input_white": str(hands.random.randint(190, 254)),
        "output_black": str(hands.random.randint(1, 60)),
        "output_white": str(hands.random.randint(190, 254)),
    }
    page.locator("#f-input_black").focus()
    page.locator("#f-input_black").select_text()
    for text in values.values():
        hands.delay_answers()
        hands.type(text)
        hands.press("Tab")
    at_rest(page)
    shown = {name: page.input_value(f"#f-{name}") for name in values}
    assert shown == values
    tone = held(folder, own_job)["tone"]
    assert {name: tone[name] for name in values} == {
        name: float(text) for name, text in values.items()
    }


def _fields():
    """Return every number that can be typed for itself, by station."""
    tone = [
        ("exposure", -200, 200, 2), ("offset", -40, 40, 1), ("input_black", 1, 90, 0),
        ("gamma", 40, 300, 2), ("input_white", 150, 254, 0), ("output_black", 1, 90, 0),
        ("output_white", 150, 254, 0), ("brightness", -90, 90, 0), ("contrast", -90, 90, 0),
        ("local_amount", 1, 90, 0), ("sharpen_amount", 1, 400, 0),
    ]  # fmt: skip
    return {
        2: [("size.pitch_mm", "pitch", 800, 2500, 4), ("size.offset_x_mm", "offset_x", -90, 90, 1),
            ("size.offset_y_mm", "offset_y", -90, 90, 1)],
        3: [(f"tone.{name}", name, *bounds) for name, *bounds in tone if name not in ("exposure", "offset")],
        4: [("dots.noise", "noise", 0, 50, 0), ("dots.edges", "edges", 0, 90, 0)],
        5: [("burn.speed_mm_s", "speed", 20, 400, 0), ("burn.power", "power", 50, 950, 1),
            ("burn.passes", "passes", 1, 9, 0)],
        7: [("place.turn_deg", "turn", -450, 450, 1)],
    }  # fmt: skip


def _at(spec, path):
    for name in path.split("."):
        spec = spec[name]
    return spec


def test_random_typing_ends_with_what_was_typed(page, own_job, folder, seed, pace):
    """All stations, any order, any pace, answers late by up to 400 ms."""
    hands = Hands(page, seed, pace)
    wanted = {}
    for station in hands.random.sample([2, 3, 4, 5, 7], 4):
        page.keyboard.press("Escape")
        page.keyboard.press(str(station))
        expect(page.locator(f"#station-{station}")).to_have_class(re.compile("is-cur"))
        fields = _fields()[station]
        for _ in range(5):
            path, name, least, most, places = hands.random.choice(fields)
            if not page.locator(f"#f-{name}").count():
                continue
            value = hands.random.randint(least, most) / 10**places
            text = (
                f"{value:.{places}f}".rstrip("0").rstrip(".") if places else str(int(value))
            )
            hands.cycle(f"#f-{name}", text)
            wanted[path] = float(text)
    at_rest(page)
    spec = held(folder, own_job)
    assert {path: _at(spec, path) for path in wanted} == pytest.approx(wanted)


WORDS = [
    "Möwe",
    "slate 3",
    "harbour, small",
    "No. 12",
    "4½ left",
    "for the fair",
    "a/b",
    "'x' & <y>",
]


def _text(hands):
    return " ".join(hands.random.sample(WORDS, 2))


def _operation_fields():
    return [
        ("offset_mm", "offset_mm", 0, 90, 1), ("kerf_mm", "kerf_mm", 0, 400, 3),
        ("lead_in_mm", "lead_in_mm", 0, 90, 1), ("bridges", "bridges", 0, 9, 0),
        ("bridge_mm", "bridge_mm", 5, 90, 1), ("speed_mm_s", "speed_mm_s", 20, 400, 0),
        ("power", "power", 50, 950, 1), ("passes", "passes", 1, 9, 0), ("name", "name", 0, 0, 0),
    ]  # fmt: skip


def test_names_typed_end_as_they_were_typed(page, own_job, folder, seed, pace):
    """The artwork's texts, and the fold of another station opened in between."""
    hands = Hands(page, seed, pace)
    wanted = {}
    open_station(page, 1)
    for name in hands.random.choices(["name", "customer"], k=4):
        wanted[name] = _text(hands)
        hands.cycle(f"#f-{name}", wanted[name])
    at_rest(page)
    [(name, customer)] = ask_base(
        folder, "select name, customer from jobs_job where number = ?", own_job
    )
    was = {"name": name, "customer": customer}
    assert {one: was[one] for one in wanted} == wanted


def test_an_operation_holds_what_was_typed(page, own_job, folder, seed, pace):
    """Numbers and the name of a cut, answers late, steps to the next field at once."""
    hands = Hands(page, seed, pace)
    open_station(page, 6)
    page.locator("#add-cut-rectangle").click()
    expect(page.locator("#op-kerf_mm")).to_be_attached()
    wanted = {}
    for key, name, least, most, places in hands.random.choices(_operation_fields(), k=7):
        if key == "name":
            text = wanted[key] = _text(hands)
        else:
            text = f"{hands.random.randint(least, most) / 10**places:g}"
            wanted[key] = float(text)
        unfold(page, f"#op-{name}")
        hands.cycle(f"#op-{name}", text)
    at_rest(page)
    [part] = [one for one in held(folder, own_job)["operations"] if one["kind"] == "cut"]
    numbers = {key: value for key, value in wanted.items() if key != "name"}
    assert {key: part[key] for key in numbers} == pytest.approx(numbers)
    assert part["name"] == wanted.get("name", part["name"])


def test_marks_and_takes_are_called_as_typed(page, own_job, folder, seed, pace):
    """Forms with a button of their own, while a station's answers are on their way."""
    hands = Hands(page, seed, pace)
    open_station(page, 5)
    page.keyboard.press("k")
    more = page.locator(".take__more summary")
    expect(more).to_have_count(1)
    hands.cycle("#f-speed", "150")  # its answer brings the takes anew
    more.click()
    expect(page.locator(".take__more input")).to_be_focused()  # a hand types at the caret
    called = _text(hands)
    hands.type(called)
    page.keyboard.press("Enter")
    open_station(page, 7)
    page.locator("[data-fold=marks] > summary").click()
    mark = _text(hands)
    hands.cycle("#f-turn", "7")
    for name, text in [("name", mark), ("x_mm", "41.5"), ("y_mm", "20")]:
        hands.cycle(f"#mark-form [name={name}]", text)
    page.locator("#mark-form [type=submit]").click()
    at_rest(page)
    assert ask_base(
        folder,
        "select t.name from jobs_take t join jobs_job j on j.id = t.job_id where j.number = ?",
        own_job,
    ) == [(called,)]
    spec = held(folder, own_job)
    assert spec["place"]["turn_deg"] == 7
    assert [(one["name"], one["x_mm"], one["y_mm"]) for one in spec["marks"]] == [
        (mark, 41.5, 20)
    ]
