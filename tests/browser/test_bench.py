"""At the machines: prepared, walked, nudged, dry-run, burned, broken off and finished."""

import json
import re
import shutil
import socket
from concurrent.futures import ThreadPoolExecutor
from urllib.parse import urlencode
from urllib.request import Request, urlopen

import pytest
from playwright.sync_api import expect

from support.running import fill, made_once, workshop
from support.walking import held, sign_off, tick_all

PACE, FAST = 2, 60
"""Machines run a little faster than in a shop while hands are at them, and then much."""


@pytest.fixture(scope="module")
def shop(tmp_path_factory):
    """A workshop with two machines of its own."""
    shared = tmp_path_factory.getbasetemp()
    shared = shared.parent if "popen" in shared.name else shared
    folder = shutil.copytree(
        made_once(shared / "demo", fill), tmp_path_factory.mktemp("shop") / "var"
    )
    with workshop(folder, pace=PACE, two=True, blocks=128) as address:
        yield address, folder


def opened(browser, shop, wide, high):
    context = browser.new_context(
        base_url=shop[0], viewport={"width": wide, "height": high}, has_touch=wide < 500
    )
    context.set_default_timeout(60_000)
    page = context.new_page()
    page.faults = []
    page.on("pageerror", lambda error: page.faults.append(str(error)))
    return page


@pytest.fixture
def desk(browser, shop):
    page = opened(browser, shop, 1280, 800)
    yield page
    page.context.close()
    assert page.faults == []


@pytest.fixture
def phone(browser, shop):
    page = opened(browser, shop, 390, 800)
    yield page
    page.context.close()
    assert page.faults == []


def witness(shop, at, question):
    ports = json.loads((shop[1] / "ports.json").read_text())
    with socket.create_connection(("127.0.0.1", int(ports[at][1])), timeout=20) as one:
        one.sendall(json.dumps(question).encode() + b"\n")
        return json.loads(one.makefile("rb").readline())


def told(page, name):
    return page.locator(f'[data-told="{name}"]')


def goes(page, words, seconds=60):
    expect(told(page, "doing")).to_contain_text(words, timeout=1000 * seconds)


def twice(button):
    button.click()
    button.click()


def burn(page):
    """Press twice; who sees nothing come of it, since the first press is past, does so again."""
    began = (
        told(page, "ready")
        .or_(told(page, "doing"))
        .filter(has_text=re.compile("Getting ready|Burning. Job"), visible=True)
    )
    tick_all(page)
    for _ in range(4):
        twice(page.locator("[data-do=burn]"))
        try:
            expect(began).not_to_have_count(0, timeout=10_000)
            break
        except AssertionError:
            continue
    goes(page, "Burning. Job", 180)


def set_up(page, shop, name, number):
    """Sign a job's cautions off, and open its machine."""
    page.goto(f"/jobs/{number}/check/")
    sign_off(page)
    page.goto("/bench/")
    page.get_by_role("link", name=name).click()
    page.goto(f"{page.url}?job={number}")
    expect(page.locator("h1")).to_have_text(name)


def at_second(page, shop):
    """The second machine is told its port, and asked for the rest."""
    controller, _ = json.loads((shop[1] / "ports.json").read_text())[1]
    page.goto("/shelf/")
    page.get_by_role("link", name="Window bench").first.click()
    page.get_by_label("Port").fill(f"socket://127.0.0.1:{controller}")
    page.get_by_role("button", name="Save the machine").click()
    page.goto("/shelf/")
    page.get_by_role("link", name="Window bench").first.click()
    page.get_by_role("link", name="Ask the machine").click()
    expect(page.locator("main")).to_contain_text("It receives 128 bytes")
    page.get_by_role("button", name="Take what is ticked").click()
    expect(page.locator("main [role=status]")).to_contain_text("taken")


def walk_and_nudge(page, shop, number):
    before = held(shop[1], number)["place"]["x_mm"]
    page.get_by_role("button", name="faint beam").click()
    goes(page, "Walking the border")
    page.get_by_label("Nudge → 0.5").click()
    expect(page.locator("#piece")).to_have_attribute("transform", "translate(0.5 0)")
    assert held(shop[1], number)["place"]["x_mm"] == pytest.approx(before + 0.5, abs=1e-3)
    page.locator("[data-stop]").click()
    goes(page, "Walking the border: stopped")


def break_off_and_finish(page, shop, at):
    """The plug is pulled amid the burn; the rest is burned after it, dot for dot."""
    witness(shop, at, {"trouble": {"kind": "cut", "after": 0}})
    goes(page, "Burning: failed")
    expect(told(page, "fault")).to_contain_text("connection to the controller was lost")
    assert witness(shop, at, {})["lit"] is False
    page.reload()
    witness(shop, at, {"pace": FAST})
    # What is burned is drawn up to the row, and the head shows where that begins.
    expect(page.locator("#burned")).to_have_attribute("href", re.compile("^blob:"))
    page.get_by_role("button", name="Show where it begins").click()
    expect(page.locator("#said")).to_contain_text("begins at")
    assert witness(shop, at, {})["lit"] is True
    twice(page.locator("[data-do=continue]"))
    expect(told(page, "said")).to_be_hidden()
    goes(page, "Burning: finished", 400)
    witness(shop, at, {"pace": PACE})


@pytest.mark.parametrize("who", ["desk", "phone"])
def test_a_burn_from_walk_to_finish(request, who, shop):
    page, at = request.getfixturevalue(who), 0 if who == "desk" else 1
    name, number = (("North bench", 414), ("Window bench", 402))[at]
    if at:
        at_second(page, shop)
    set_up(page, shop, name, number)
    walk_and_nudge(page, shop, number)
    set_up(page, shop, name, number)
    page.get_by_label("at, 0 is the job's speed").fill("180")
    lit_s = witness(shop, at, {})["beam_s"]
    page.locator("[data-do=dry]").click()
    goes(page, "Dry run")
    page.locator("[data-stop]").click()
    goes(page, "Dry run: stopped")
    assert witness(shop, at, {})["beam_s"] == lit_s
    burn(page)
    page.locator("[data-hold]").click()
    goes(page, "Held", 120)
    assert witness(shop, at, {})["lit"] is False
    page.locator("section [data-do=go-on]").click()
    goes(page, "Burning. Job")
    page.locator("[data-what=speed][data-by='+10']").click()
    expect(told(page, "trim-speed")).to_have_text("110 %")
    if at:  # at the phone it is stopped
        page.locator("[data-stop]").tap()
        goes(page, "Burning: stopped")
        return
    break_off_and_finish(page, shop, at)
    page.goto(f"/jobs/{number}/run/")
    # As if it had never been broken off.
    expect(page.locator("#burn")).to_contain_text("dots lies where it was planned")


def test_two_machines_at_once_and_each_shows_its_own(desk, phone, shop):
    at_second(phone, shop)
    set_up(phone, shop, "Window bench", 402)
    set_up(desk, shop, "North bench", 414)
    burn(desk)
    burn(phone)
    expect(desk.locator("#lamp")).to_contain_text("0402")
    phone.goto("/bench/")
    expect(phone.locator("progress")).to_have_count(2)
    desk.keyboard.press("Escape")
    goes(desk, "Burning: stopped")
    phone.goto("/bench/")
    phone.get_by_role("link", name="Window bench").click()
    goes(phone, "Job 402")
    phone.locator("[data-stop]").tap()
    goes(phone, "Burning: stopped")


def test_creeping_by_keys_and_by_a_held_button(desk, shop):
    set_up(desk, shop, "North bench", 414)
    witness(shop, 0, {"pace": FAST})
    desk.get_by_role("button", name="Centre").click()
    expect(told(desk, "place")).to_have_text("X 200.0 Y 200.0 mm")
    witness(shop, 0, {"pace": PACE})
    desk.get_by_role("button", name="Right", exact=True).first.focus()
    desk.keyboard.press("ArrowUp")
    expect(told(desk, "place")).to_have_text("X 200.0 Y 201.0 mm")
    desk.locator("label:has-text('0.1')").click()
    desk.locator("[data-way='-1 0']").click()
    expect(told(desk, "place")).to_have_text("X 199.9 Y 201.0 mm")
    box = desk.locator("[data-way='1 0']").bounding_box()
    desk.mouse.move(box["x"] + 10, box["y"] + 10)
    desk.mouse.down()
    expect(told(desk, "place")).not_to_contain_text("X 199.9")
    desk.mouse.up()
    desk.wait_for_timeout(500)
    place = witness(shop, 0, {})["place"]
    assert place[0] > 200
    desk.wait_for_timeout(400)
    assert witness(shop, 0, {})["place"] == place


def test_a_page_that_goes_away_lets_go(desk, shop):
    set_up(desk, shop, "North bench", 414)
    witness(shop, 0, {"pace": FAST})
    desk.get_by_role("button", name="Front left").click()
    expect(told(desk, "place")).to_have_text("X 0.0 Y 0.0 mm")
    witness(shop, 0, {"pace": PACE})
    box = desk.locator("[data-way='1 0']").bounding_box()
    desk.mouse.move(box["x"] + 10, box["y"] + 10)
    desk.mouse.down()
    expect(told(desk, "place")).not_to_have_text("X 0.0 Y 0.0 mm")
    desk.context.set_offline(True)
    desk.wait_for_timeout(1500)
    first = witness(shop, 0, {})["place"]
    desk.wait_for_timeout(400)
    assert witness(shop, 0, {})["place"] == first
    assert first[0] < 395
    desk.mouse.up()
    desk.context.set_offline(False)


def test_four_starts_at_once_are_one_burn(desk, shop):
    set_up(desk, shop, "North bench", 414)
    tick_all(desk)
    cookies = "; ".join(f"{one['name']}={one['value']}" for one in desk.context.cookies())
    token = json.loads(desk.evaluate("document.body.getAttribute('hx-headers')"))

    def start(_):
        headers = {**token, "Cookie": cookies, "Referer": shop[0]}
        ask = Request(
            desk.url.split("?")[0] + "do/burn/",
            urlencode({"job": "414"}).encode(),
            headers,
        )
        try:
            with urlopen(ask) as answer:
                return answer.status
        except OSError as error:
            return error.code

    with ThreadPoolExecutor(4) as pool:
        codes = sorted(pool.map(start, range(4)))
    assert codes == [200, 422, 422, 422]
    goes(desk, "Burning. Job")
    desk.keyboard.press("Escape")
    goes(desk, "Burning: stopped")
