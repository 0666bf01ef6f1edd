"""From an empty folder to a checked job and its G-code: by mouse, and with a thumb."""

import re

import pytest
from playwright.sync_api import expect

from support.jobs import photograph
from support.pages import smallest_texts
from support.running import fill, until, workshop
from support.walking import settled

PHONE = {
    "viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True,
    "device_scale_factor": 2,
}  # fmt: skip
DESK = {"viewport": {"width": 1280, "height": 800}}
MOST_ACTS = 15  # of some ten seconds each for a person: under three minutes


class Hand:
    """Presses with a mouse or a finger, and counts."""

    def __init__(self, page, *, touch):
        self.page, self.touch, self.acts = page, touch, 0

    def press(self, what):
        self.acts += 1
        (what.tap if self.touch else what.click)()

    def type(self, field, text):
        self.acts += 1
        self.page.fill(field, text)


def seen(page, selector):
    """Whether a part lies on the screen, under nothing."""
    return page.locator(selector).evaluate(
        """part => {
          const box = part.getBoundingClientRect();
          const x = (box.left + box.right) / 2, y = (box.top + box.bottom) / 2;
          const top = document.elementFromPoint(x, y);
          return box.height > 0 && Boolean(top) && (part.contains(top) || top.contains(part));
        }"""
    )


@pytest.fixture
def first(browser, tmp_path, request):
    """A page of a workshop that has nothing yet."""
    folder = tmp_path / "var"
    fill(folder, demo=False)
    with workshop(folder) as address:
        context = browser.new_context(base_url=address, **request.param)
        context.set_default_timeout(90_000)
        yield context.new_page()
        context.close()


@pytest.mark.parametrize(
    "first", [DESK, PHONE], indirect=True, ids=["by mouse", "with a thumb"]
)
def test_from_an_empty_folder_to_a_checked_job(first, tmp_path):
    page, touch = first, first.viewport_size["width"] < 500
    hand = Hand(page, touch=touch)
    page.goto("/")
    hand.press(page.get_by_text("A diode"))
    expect(page.locator("#f-rated_power_w")).to_have_value("10")
    hand.type("#f-rated_power_w", "20")
    hand.press(page.get_by_role("button", name="Set it up"))
    expect(page.get_by_text("Drop a photograph", exact=True)).to_be_visible()

    picture = tmp_path / "harbour.png"
    picture.write_bytes(photograph(900, 600))
    hand.acts += 1
    page.set_input_files("#upload-files", picture)
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    settled(page)
    if touch:
        tuned_by_thumb(page, hand)
    hand.press(page.get_by_role("button", name=re.compile("Check the job|Fix the stop")))
    expect(page.locator(".t-fine b")).not_to_have_text("")
    sign = page.locator("button[id^=sign-]:text-is('Sign off')")
    if page.locator("#signer").count():
        hand.type("#signer", "mk")
    while left := sign.count():
        hand.press(sign.first)
        expect(sign).to_have_count(left - 1)
    hand.press(page.get_by_role("button", name=re.compile("To the run")))
    download = page.get_by_role("link", name="Download the G-code")
    with page.expect_download() as found:
        hand.press(download)
    assert found.value.path().read_text().count("\n") > 500
    assert hand.acts <= MOST_ACTS + 6 * touch
    assert (
        page.evaluate("document.documentElement.scrollWidth") <= page.viewport_size["width"]
    )


def pinched(page):
    """Two fingers part over the middle, one of them on the divider: it comes closer."""
    view = "document.querySelector('#stage').table.view.scale"
    split = "document.querySelector('#stage').table.split"
    before = page.evaluate(f"[{view}, {split}]")
    box = page.locator("#divider").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    hand = page.context.new_cdp_session(page)

    def fingers(kind, *at):
        points = [{"x": x + far, "y": y, "id": name} for name, far in enumerate(at)]
        hand.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    fingers("touchStart", 0)
    fingers("touchStart", 0, 60)
    for far in range(60, 130, 10):
        fingers("touchMove", 0, far)
    fingers("touchEnd")
    scale, share = page.evaluate(f"[{view}, {split}]")
    assert scale == pytest.approx(before[0] * 2, rel=0.1)
    assert share == before[1]


def tuned_by_thumb(page, hand):
    """The picture is seen beside the slider that changes it."""
    hand.press(page.locator("#station-3 .station__row"))
    more = page.get_by_role("button", name="Brightness: a step more")
    expect(more).to_be_visible()
    settled(page)
    before = page.locator("#stage").get_attribute("data-drawn")
    more.scroll_into_view_if_needed()
    for _ in range(3):
        hand.press(more)
    expect(page.locator("#f-brightness")).to_have_value("3")
    settled(page, before)
    assert seen(page, "#stage")
    assert seen(page, "#stub .button")
    pinched(page)
    assert smallest_texts(page) == {}
    # Pulled shut it is away; a press brings it back.
    hand.press(page.locator("#pull"))
    expect(page.locator(".stage__canvas")).to_be_hidden()
    hand.press(page.locator("#pull"))
    expect(page.locator(".stage__canvas")).to_be_visible()
    until(page, "document.querySelector('#stage').clientHeight > 200")
    page.locator("#pull").focus()
    page.keyboard.press("ArrowDown")
    expect(page.locator("#pull")).to_have_attribute("aria-valuenow", "45")
