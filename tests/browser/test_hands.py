"""What hands meet on the way: focus, scrolling, messages, letters typed at selects, outages."""

import re

import pytest
from playwright.sync_api import expect

from support.running import until
from support.typing import Hands
from support.walking import STATIONS, ask_base, held, open_station, settled, small_ticket

AT = """() => { const e = document.activeElement;
  return e === document.body ? '' : (e.id || e.getAttribute('aria-label') || e.textContent.trim()); }"""

# What reaches beyond the window's right edge; pictures and rows of cards may.
CUT_OFF = """() => [...document.querySelectorAll('#main *')].filter((one) =>
  one.getBoundingClientRect().right > 391
  && !one.closest('svg, canvas, #stage, .takes__cards, .readings, .is-sr-only')
).map((one) => one.className || one.tagName)"""


@pytest.fixture
def job(page, tmp_path):
    """A fresh ticket."""
    return small_ticket(page, tmp_path)


@pytest.mark.parametrize("number", range(1, 8))
def test_stepping_through_every_control_never_scrolls_the_page_away(page, job, number):
    open_station(page, number)
    stay = "document.scrollingElement.scrollTop + document.body.scrollTop + document.querySelector('#main').scrollTop"
    for summary in page.locator(".station__body summary").all()[:4]:
        summary.focus()
        page.keyboard.press("Enter")
    count = page.locator(
        ".station__body :is(input, select, button, summary):visible"
    ).count()
    page.locator(f"#row-{STATIONS[number - 1]}").focus()
    for _ in range(count + 12):
        page.keyboard.press("Tab")
        assert page.evaluate(stay) == 0
    assert page.locator(".rail").bounding_box()["y"] == 0


def test_on_a_phone_a_station_opens_with_its_head_in_sight(browser, address, page, job):
    phone = browser.new_context(
        base_url=address, viewport={"width": 390, "height": 780}, has_touch=True
    )
    page = phone.new_page()
    page.goto(f"/jobs/{job}/")
    for station in (2, 3, 5, 6, 7, 4, 1, 8, 9):
        row = page.locator(f"#row-{STATIONS[station - 1]}")
        row.tap()
        expect(page.locator(f"#station-{station}")).to_have_class(re.compile("is-cur"))
        page.wait_for_timeout(300)
        # What Check finds and what Run makes begin at the top, the stations under them.
        box = (page.locator("#panel") if station > 7 else row).bounding_box()
        assert 0 <= box["y"] <= 780 - min(box["height"], 300), station
        wide = page.evaluate("document.documentElement.scrollWidth")
        assert wide <= 390, station
        until(
            page, "!document.querySelector('#panel .htmx-request, #stations .htmx-request')"
        )
        assert page.evaluate(CUT_OFF) == [], station
    phone.close()


def test_a_message_is_seen_each_time_and_a_refusal_stays(page, job):
    seen = """() => { const said = document.querySelector('#said span'), look = said && getComputedStyle(said);
      return said && look.visibility === 'visible' ? Number(look.opacity) : 0; }"""
    for _ in range(2):
        page.evaluate(
            """async () => {
              const { src } = document.querySelector('script[src$="shell/js/page.js"]');
              (await import(src)).say('Drawn.');
            }"""
        )
        until(page, f"({seen})() > 0.9")
        until(page, f"({seen})() === 0", seconds=12)
    open_station(page, 6)
    page.evaluate(
        """() => document.querySelector('#add-cut-rectangle')
          .setAttribute('hx-vals', '{"kind": "melt", "shape": "rectangle"}')"""
    )
    page.locator("#add-cut-rectangle").click()
    refusal = page.locator("p.is-refusal")
    expect(refusal).to_contain_text("cannot be read")
    page.wait_for_timeout(9000)
    expect(refusal).to_be_visible()
    assert page.evaluate(f"({seen})()") == 1


def pressable(page):
    """Buttons of the open station that change the job."""
    return page.locator(
        ".station__body :is(button[data-set], button[data-add], button[hx-post]):visible"
    )


@pytest.mark.parametrize("number", [1, 2, 3, 5, 6, 7])
def test_after_any_button_the_focus_stays_near(page, job, number):
    """Whatever an answer takes away, the keyboard is not thrown back to the page."""
    open_station(page, number)
    for at in range(pressable(page).count()):
        if at >= pressable(page).count():
            break
        button = pressable(page).nth(at)
        button.focus()
        state = page.locator("#pictures").get_attribute("data-state")
        page.keyboard.press("Enter")
        page.wait_for_timeout(250)
        until(page, "!document.querySelector('#stations .htmx-request')")
        page.wait_for_timeout(150)
        found = page.evaluate(AT)
        assert found, f"button {at} of station {number}, from {state}"


def test_undo_by_keys_keeps_the_focus(page, job):
    open_station(page, 3)
    page.locator("[data-add='shade=1']").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#undo")).to_be_enabled()
    page.locator("#undo").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#undo")).to_be_disabled()
    page.wait_for_timeout(300)
    # Where it was, and on nothing that a second press of Enter would set off.
    assert page.evaluate("document.activeElement.matches('.ticket__acts')")


def test_stop_keeps_the_focus_while_the_burn_is_followed(page, job, folder):
    ask_base(
        folder,
        "insert into bench_run (job_id, spec, state, created, rows, rows_done, planned_s,"
        " clock_s, error, stop_wanted, rating, dots_planned, address, held, remaining_s,"
        " first_row, trims, hands, operator, revision, output_sha256, holds, result, why,"
        " notes, photo, alarms, signed) select j.id, r.spec, 'waiting', datetime('now'), 100,"
        " 5, 60, 3, '', 0, 0, 0, 'nowhere', '', 0, 0, '[]', '[]', '', 0, '', 0, '', '', '', '',"
        " '[]', '[]'"
        " from jobs_job j join jobs_revision r on r.id = j.head_id where j.number = ?",
        job,
    )
    try:
        open_station(page, 9)
        page.locator("#burn-stop").focus()
        page.wait_for_timeout(2500)
        assert page.evaluate(AT) == "burn-stop"
        expect(page.locator("#lamp")).to_contain_text("getting ready")
        # Pressed slowly: an answer comes between down and up.
        box = page.locator("#burn-stop").bounding_box()
        page.mouse.move(box["x"] + 10, box["y"] + 10)
        page.mouse.down()
        page.wait_for_timeout(1000)
        page.mouse.up()
        expect(page.locator("#burn-stop")).to_have_text("Stopping")
        [(wanted,)] = ask_base(
            folder, "select stop_wanted from bench_run order by id desc limit 1"
        )
        assert wanted == 1
    finally:
        # The page asks after the run; it may not ask for one that is gone.
        page.goto("about:blank")
        ask_base(folder, "delete from bench_run where address = 'nowhere'")


@pytest.mark.parametrize("pace", [(120, 250), (0, 30)], ids=["human", "fast"])
def test_letters_typed_at_a_select_choose_what_they_spell(page, job, folder, pace):
    hands = Hands(page, 3, pace)
    open_station(page, 2)
    page.select_option("#f-substrate", label="Slate")
    expect(page.locator("#body-blank")).to_contain_text("lightens it")
    posts = []
    page.on("request", lambda one: one.method == "POST" and posts.append(one.url))
    hands.delay_answers()
    page.locator("#f-substrate").focus()
    for letter in "birch":
        hands.press(letter)
    page.keyboard.press("Tab")
    until(page, "document.querySelector('#res-blank').textContent.length > 0")
    page.wait_for_timeout(1500)
    assert held(folder, job)["substrate"]["name"] == "Birch plywood"
    assert page.locator("#f-substrate option:checked").inner_text() == "Birch plywood"
    # What the first letters alone would choose was never sent.
    assert len(posts) == 1


def test_what_cannot_be_sent_is_marked_kept_and_sent_when_the_program_is_back(
    page, job, folder
):
    open_station(page, 5)
    page.context.set_offline(True)
    page.fill("#f-speed", "77")
    page.keyboard.press("Tab")
    expect(page.locator("#said")).to_have_text(
        "Not saved yet; it is sent when the program is back."
    )
    expect(page.locator("#f-speed")).to_have_class(re.compile("is-unsent"))
    page.wait_for_timeout(2000)
    page.context.set_offline(False)
    expect(page.locator("#f-speed")).not_to_have_class(re.compile("is-unsent"))
    expect(page.locator("#said")).to_contain_text("what you typed is saved")
    assert held(folder, job)["burn"]["speed_mm_s"] == 77
    settled(page)
    # The page may go meanwhile: the next one sends what this one could not.
    page.context.set_offline(True)
    page.fill("#f-passes", "3")
    page.keyboard.press("Tab")
    expect(page.locator("#f-passes")).to_have_class(re.compile("is-unsent"))
    page.goto("about:blank")
    page.context.set_offline(False)
    page.goto(f"/jobs/{job}/")
    expect(page.locator("#said")).to_contain_text("What could not be sent before is saved")
    expect(page.locator("#f-passes")).to_have_value("3")
    assert held(folder, job)["burn"]["passes"] == 3
    assert page.evaluate("localStorage.length") == 0
    page.faults.clear()  # the browser tells of every request that failed


def test_a_field_being_typed_in_is_saved_before_the_unit_changes(page, job, folder):
    open_station(page, 2)
    page.fill("#f-width", "50.8")
    page.locator(".rail__unit").click()
    expect(page.locator(".rail__unit")).to_have_text("in")
    expect(page.locator("#f-width")).to_have_value("2")
    assert held(folder, job)["size"]["width_mm"] == pytest.approx(50.8)
    # A fast hand is there before the scripts are.
    held_back = []

    def hold(route):
        held_back.append(route)

    page.route(re.compile(r"/js/(page|ticket)\.js"), hold, times=2)
    page.reload(wait_until="commit")
    page.fill("#f-offset_x", "1")
    page.locator(".rail__unit").click()
    for one in held_back:
        one.continue_()
    expect(page.locator(".rail__unit")).to_have_text("mm")
    expect(page.locator("#f-offset_x")).to_have_value("25.4")
    expect(page.locator("#f-width")).to_have_value("50.8")


def test_a_page_that_is_left_takes_nothing_typed_with_it(page, job, folder):
    open_station(page, 5)
    page.locator("#f-passes").focus()
    page.locator("#f-passes").select_text()
    page.keyboard.type("4")
    page.goto("/")
    until(page, "document.querySelector('.rack')")
    page.wait_for_timeout(800)
    assert held(folder, job)["burn"]["passes"] == 4


def test_a_refused_field_keeps_its_fault_while_others_are_saved(page, job, folder):
    open_station(page, 5)
    page.fill("#f-speed", "fast")
    page.keyboard.press("Tab")
    expect(page.locator("#f-speed-fault")).to_be_visible()
    page.fill("#f-passes", "3")
    page.keyboard.press("Tab")
    page.wait_for_timeout(600)
    expect(page.locator("#f-speed-fault")).to_be_visible()
    expect(page.locator("#f-speed")).to_have_value("fast")
    assert held(folder, job)["burn"]["passes"] == 3
    page.fill("#f-speed", "88")
    page.keyboard.press("Tab")
    expect(page.locator("#f-speed-fault")).to_have_count(0)
    until(page, "!document.querySelector('#stations .htmx-request')")
    assert held(folder, job)["burn"]["speed_mm_s"] == 88


def test_two_tabs_on_one_ticket_keep_both_changes(page, job, folder):
    other = page.context.new_page()
    open_station(page, 5)
    other.goto(f"/jobs/{job}/burn/")
    page.fill("#f-passes", "2")
    page.keyboard.press("Tab")
    page.wait_for_timeout(600)
    other.fill("#f-speed", "66")
    other.locator("#f-speed").blur()
    expect(other.locator("#said")).to_contain_text("changed on another page meanwhile")
    expect(other.locator("#f-passes")).to_have_value("2")
    burn = held(folder, job)["burn"]
    assert (burn["passes"], burn["speed_mm_s"]) == (2, 66)
    expect(other.locator("#said")).to_contain_text("There: passes 2")
    expect(other.locator("#f-passes")).to_have_class(re.compile("is-come"))
    expect(other.locator("#f-speed")).not_to_have_class(re.compile("is-come"))
    # The first page comes back into sight, and shows what came in.
    page.evaluate("dispatchEvent(new Event('focus'))")
    expect(page.locator("#f-speed")).to_have_value("66")
    expect(page.locator("#said")).to_contain_text("meanwhile: speed 66 mm/s.")
    # Nothing is said of what it knows.
    with page.expect_response(lambda answer: answer.status == 204):
        page.evaluate("dispatchEvent(new Event('focus'))")
    other.close()


def test_a_whole_job_by_keys_alone_at_a_human_pace(page, job, folder):
    """From the picture to the file without a mouse, and nothing comes out otherwise."""
    hands = Hands(page, 5, (60, 180))

    def to(station):
        hands.press("Escape")
        hands.delay_answers()
        hands.press(str(station))
        expect(page.locator(f"#station-{station}")).to_have_class(re.compile("is-cur"))

    def step_to(field):
        for _ in range(90):
            if page.evaluate("document.activeElement?.id") == field:
                return
            page.keyboard.press("Tab")
        raise AssertionError(field)

    def chosen():
        return page.evaluate("document.activeElement.selectedOptions[0].text")

    def choose(field, letters):
        step_to(field)
        hands.type(letters)
        # A list forgets what was typed after a second, and a busy machine may take that long
        # over a letter; whoever sees another line waits and types again.
        while not chosen().lower().startswith(letters):
            page.wait_for_timeout(1200)
            hands.type(letters)
        hands.press("Tab")

    def fill(field, text):
        step_to(field)
        hands.delay_answers()
        hands.type(text)
        hands.press("Tab")

    to(5)
    choose("f-machine", "north")
    to(2)
    choose("f-blank", "beech board")
    fill("f-width", "80")
    fill("f-pitch", "0.125")
    to(3)
    fill("f-gamma", "1.35")
    fill("f-output_white", "243")
    to(4)
    to(5)
    fill("f-speed", "210")
    fill("f-passes", "2")
    to(7)
    fill("f-x", "45.5")
    to(8)
    expect(page.locator(".t-stop b")).to_have_text("0")
    if page.locator("#initials").count():
        fill("initials", "J. W.")
        hands.press("Enter")
        expect(page.locator("#tally")).to_contain_text("Cautions signed off by J. W.")
    to(9)
    expect(page.locator("#res-check")).to_have_text(re.compile("Checked"))
    page.wait_for_load_state("networkidle")
    spec = held(folder, job)
    found = (
        spec["machine"]["name"], spec["blank"]["name"], spec["size"]["width_mm"],
        spec["size"]["pitch_mm"], spec["tone"]["gamma"], spec["tone"]["output_white"],
        spec["burn"]["speed_mm_s"], spec["burn"]["passes"],
    )  # fmt: skip
    assert found == (
        "North bench", "Beech board, 120 mm", 80, 0.125, 1.35, 243, 210, 2,
    )  # fmt: skip
    assert page.input_value("#proof-pixels") == "2000"


def test_a_whole_job_by_thumb_on_a_phone(browser, address, page, job, folder):
    phone = browser.new_context(
        base_url=address, viewport={"width": 390, "height": 780}, has_touch=True,
        is_mobile=True, device_scale_factor=2,
    )  # fmt: skip
    page = phone.new_page()
    hands = Hands(page, 7, (60, 180))
    page.goto(f"/jobs/{job}/")

    def to(slug):
        hands.delay_answers()
        page.locator(f"#row-{slug}").tap()
        expect(page.locator("#stations")).to_have_attribute("data-station", slug)

    def fill(field, text):
        page.locator(f"#{field}").tap()
        page.locator(f"#{field}").select_text()
        hands.rest()
        hands.type(text)

    to("blank")
    page.select_option("#f-blank", label="Beech board, 120 mm")
    fill("f-width", "3 in")
    fill("f-pitch", "0.15")
    to("tone")
    page.locator("[data-add='shade=1']").tap()
    page.locator("[data-add='shade=1']").tap()
    fill("f-gamma", "1.2")
    # A name and its number, and under them a slider between its steps.
    boxes = """[...document.querySelectorAll('#body-tone .slide:not(.slide--bare)')].filter((one) => one.checkVisibility()).map(
      (one) => [...one.children].slice(0, 5).map((part) => part.getBoundingClientRect()).map(({ x, y, right, bottom }) => [x, y, right, bottom]))"""
    for name, less, slider, more, number in (found := page.evaluate(boxes)):
        assert name[1] < number[3] <= less[1] + 1
        assert number[1] < name[3] <= less[1] + 1
        assert less[2] <= slider[0] < slider[2] <= more[0]
        assert less[1] == more[1] < slider[1] < less[3]
    assert len(found) > 2
    to("burn")
    fill("f-speed", "150")
    fill("f-passes", "2")
    to("check")
    expect(page.locator(".findings")).to_contain_text("Before you burn")
    page.wait_for_load_state("networkidle")
    spec = held(folder, job)
    assert spec["size"]["width_mm"] == pytest.approx(76.2)
    found = spec["size"]["pitch_mm"], spec["tone"]["shade"], spec["tone"]["gamma"]
    assert found == (0.15, 2, 1.2)
    assert (spec["burn"]["speed_mm_s"], spec["burn"]["passes"]) == (150, 2)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    phone.close()


def test_a_refused_value_outlasts_undo_and_half_a_number_is_not_sent(page, job, folder):
    open_station(page, 3)
    page.fill("#f-gamma", "dark")
    page.keyboard.press("Tab")
    expect(page.locator("#f-gamma-fault")).to_be_visible()
    page.locator("[data-add='shade=1']").click()
    expect(page.locator("#res-tone")).to_contain_text("1 shade lighter")
    page.locator("#undo").click()
    expect(page.locator("#res-tone")).not_to_contain_text("shade")
    expect(page.locator("#f-gamma-fault")).to_be_visible()
    expect(page.locator("#f-gamma")).to_have_value("dark")
    page.fill("#f-gamma", "1")
    page.keyboard.press("Tab")
    expect(page.locator("#f-gamma-fault")).to_have_count(0)
    # A slider has the sentences follow while a number is being typed elsewhere.
    page.locator("#r-brightness").focus()
    page.keyboard.press("ArrowRight")
    page.locator("#f-output_white").focus()
    page.locator("#f-output_white").select_text()
    page.keyboard.type("2")
    page.wait_for_timeout(1500)
    assert held(folder, job)["tone"]["output_white"] == 255
    page.keyboard.type("40")
    page.keyboard.press("Tab")
    expect(page.locator("#res-tone")).to_contain_text("levels")
    tone = held(folder, job)["tone"]
    assert (tone["output_white"], tone["brightness"]) == (240, 1)


def test_a_long_name_keeps_the_rack_as_wide_as_the_window(page, job):
    page.goto(f"/jobs/{job}/artwork/")
    page.fill("#f-name", "W" * 60)
    page.keyboard.press("Tab")
    expect(page.locator("h1")).to_have_text("W" * 60)
    for width in (1280, 390):
        page.set_viewport_size({"width": width, "height": 800})
        page.goto("/")
        page.wait_for_timeout(300)
        wide = page.evaluate("document.documentElement.scrollWidth")
        assert wide <= width
        cards = page.locator(".rticket").all()
        assert max(card.bounding_box()["width"] for card in cards) < 250


def test_a_reload_in_the_midst_of_it_shows_what_was_typed(page, job, folder):
    open_station(page, 5)
    hands = Hands(page, 2, (0, 10))
    for speed, passes in (("81", "3"), ("82", "4"), ("83", "5")):
        hands.delay_answers()
        page.fill("#f-speed", speed)
        page.fill("#f-passes", passes)
        page.reload()
        expect(page.locator("#f-speed")).to_have_value(speed)
        expect(page.locator("#f-passes")).to_have_value(passes)
    burn = held(folder, job)["burn"]
    assert (burn["speed_mm_s"], burn["passes"]) == (83, 5)


def test_a_piece_moved_by_key_is_moved_though_the_station_is_left_at_once(
    page, job, folder
):
    """The hand that rested at Place posts nothing at the next station, and loses nothing."""
    open_station(page, 7)
    x = held(folder, job)["place"]["x_mm"]
    page.locator("#piece").focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.locator("#row-tone").click()
    expect(page.locator("#station-3")).to_have_class(re.compile("is-cur"))
    page.wait_for_timeout(900)
    spec = held(folder, job)
    assert spec["place"]["x_mm"] == pytest.approx(x + 2, abs=1e-3)
    assert spec["tone"] == {**spec["tone"], "gamma": 1.0, "brightness": 0}
    open_station(page, 7)
    lies = page.locator("#piece").get_attribute("data-lies").split()
    assert float(lies[0]) == pytest.approx(x + 2, abs=1e-3)
    assert page.locator("#piece").get_attribute("transform") in (None, "translate(0 0)")


def test_a_drag_that_the_browser_takes_for_scrolling_moves_nothing(page, job, folder):
    open_station(page, 7)
    x = held(folder, job)["place"]["x_mm"]
    page.locator("#piece").evaluate(
        """piece => {
          const box = piece.getBoundingClientRect();
          const at = (kind, by) => piece.dispatchEvent(new PointerEvent(kind, {
            bubbles: true, cancelable: true, pointerId: 1, clientX: box.x + 20 + by, clientY: box.y + 20 }));
          piece.setPointerCapture = () => {};
          at('pointerdown', 0); at('pointermove', 60); at('pointercancel', 60); at('pointermove', 90);
        }"""
    )
    expect(page.locator("#piece")).to_have_attribute("transform", "translate(0 0)")
    page.wait_for_timeout(700)
    assert held(folder, job)["place"]["x_mm"] == x


def test_a_loupe_that_got_no_picture_asks_again(page, job):
    """One answer is lost; the next look at the same spot brings it."""
    lost = []

    def lose_one(route):
        if "w=192" in route.request.url and not lost:
            lost.append(route.request.url)
            return route.abort()
        return route.continue_()

    page.route("**/picture/dots/**", lose_one)
    page.reload()
    until(page, "document.querySelector('#stage').table.loupe")
    until(page, "performance.now() > 1500")
    page.locator("#aim").focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowLeft")
    until(page, "document.querySelector('#stage').table.loupe.block")
    assert lost
    page.faults.clear()  # the lost answer


def test_a_path_that_is_past_is_passed_over(page, job):
    page.route("**/path/*", lambda route: route.fulfill(status=410))
    open_station(page, 9)
    expect(page.locator(".pathview")).to_be_visible()
    page.locator(".pathview [data-all]").click()
    page.wait_for_timeout(400)


def test_keys_of_takes_side_by_side_leave_the_table_alone(page, job):
    open_station(page, 5)
    page.keyboard.press("k")
    expect(page.locator(".take__pin")).to_have_count(1)
    page.locator(".take__pin").click()
    before = page.evaluate("document.querySelector('#stage').table.view.scale")
    page.keyboard.press("v")
    expect(page.locator(".compare")).to_be_visible()
    for key in ("+", "+", "-", "0", "d", "l"):
        page.keyboard.press(key)
    page.keyboard.press("Escape")
    expect(page.locator(".compare")).to_have_count(0)
    assert page.evaluate("document.querySelector('#stage').table.view.scale") == before


def test_a_stroke_is_sent_though_what_went_before_was_refused(page, job, folder):
    """The order that was dropped is given again, and the next stroke goes too."""
    open_station(page, 1)
    page.locator("[data-fold=ground] > summary").click()
    page.evaluate(
        """async () => {
          const { src } = document.querySelector('script[src$="jobs/js/ticket.js"]');
          const { send } = await import(new URL('strokes.js', src));
          const { post } = await import(new URL('line.js', src));
          const field = document.querySelector('#f-straighten');
          field.value = 'crooked';
          field.dispatchEvent(new Event('input', { bubbles: true }));
          post(document.querySelector('#station-form'));
          const stroke = (x) => ({ kind: 'brush', points: [[x, 0.2], [x, 0.6]], size: 0.05 });
          send('mask_add', stroke(0.3));
          setTimeout(() => send('mask_add', stroke(0.6)), 600);
        }"""
    )
    expect(page.locator("[data-set='mask_take=last']")).to_have_count(1)
    page.wait_for_timeout(1500)
    assert len(held(folder, job)["mask"]["edits"]) == 2
