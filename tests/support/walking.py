"""Steps every walk through the ticket takes."""

import json
import re
import sqlite3

from playwright.sync_api import expect

from support.jobs import photograph
from support.running import until


def drawn(page):
    """The key of the picture on the right of the table."""
    return page.locator("#stage").get_attribute("data-drawn")


def settled(page, before=None):
    """Wait until the table shows the newest picture, and the readings their numbers."""
    until(
        page,
        """before => {
          const stage = document.querySelector('#stage'), data = document.querySelector('#pictures').dataset;
          const side = stage.table.sides.right;
          const key = data['key' + side[0].toUpperCase() + side.slice(1)];
          return stage.dataset.drawn === key && key !== before &&
            !document.querySelector('#readings').classList.contains('is-waiting');
        }""",
        before,
    )


def fresh_ticket(page, folder, cols=640, rows=480):
    """Open a ticket by picking a file on the rack, as an operator does; its number."""
    path = folder / "harbour.png"
    path.write_bytes(photograph(cols, rows))
    page.goto("/")
    page.set_input_files("#upload-files", path)
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    settled(page)
    return int(re.search(r"/jobs/(\d+)/", page.url)[1])


def opened_ticket(page, path):
    """Open a ticket for a file by posting it, past the rack and its pictures; its number."""
    page.request.get("/shelf/recipes/import/")  # brings the cookie that a post needs
    cookies = {one["name"]: one["value"] for one in page.context.cookies()}
    answer = page.request.post(
        "/jobs/new/",
        multipart={
            "files": {
                "name": path.name,
                "mimeType": "image/png",
                "buffer": path.read_bytes(),
            }
        },
        headers={"X-CSRFToken": cookies["csrftoken"]},
        max_redirects=0,
    )
    number = int(re.search(r"/jobs/(\d+)/", answer.headers["hx-redirect"])[1])
    page.goto(f"/jobs/{number}/")
    settled(page)
    return number


def small_ticket(page, folder):
    """Open a ticket for a small photograph; its number."""
    path = folder / "harbour.png"
    path.write_bytes(photograph(320, 240))
    return opened_ticket(page, path)


def ask_base(folder, question, *values):
    """Ask the workshop's database past the program."""
    with sqlite3.connect(folder / "workshop.sqlite3", timeout=20) as connection:
        return connection.execute(question, values).fetchall()


def held(folder, number):
    """The description a job holds, read past the program."""
    [(text,)] = ask_base(
        folder,
        "select r.spec from jobs_job j join jobs_revision r on r.id = j.head_id"
        " where j.number = ?",
        number,
    )
    return json.loads(text)


STATIONS = [
    "artwork", "blank", "tone", "dots", "burn", "outlines", "place", "check", "run",
]  # fmt: skip


def open_station(page, number, job=None):
    """Open a station by its key, and wait until its answer is in the page, and at rest."""
    if job:
        page.goto(f"/jobs/{job}/")
        settled(page)
    opened = re.compile(rf"/jobs/\d+/{STATIONS[number - 1]}/$")
    page.keyboard.press("Escape")  # keys do nothing while a field is being typed in
    with page.expect_response(
        lambda answer: answer.request.method == "GET" and opened.search(answer.url)
    ):
        page.keyboard.press(str(number))
    until(page, "!document.querySelector('#stations:is(.htmx-swapping, .htmx-settling)')")
    until(page, "!document.querySelector('#stations .htmx-request')")
    expect(page.locator(f"#station-{number}")).to_have_class(re.compile("is-cur"))


def unfold(page, field):
    """Open the fold that a field lies in."""
    page.evaluate(
        "field => { const fold = document.querySelector(field).closest('.fold');"
        " if (fold) fold.open = true; }",
        field,
    )


def sign_off(page):
    """Look at what Check found, and sign the cautions where there are any."""
    open_station(page, 8)
    expect(page.locator(".t-fine b")).not_to_have_text("")
    if page.locator("#signer").count():
        page.fill("#signer", "mk")
    while (button := page.locator("button[id^=sign-]:text-is('Sign off')")).count():
        left = button.count()
        button.first.click()
        expect(button).to_have_count(left - 1)


def tick_all(page):
    """Tick the list for the hands, where the page shows it."""
    open_ones = page.locator(".handlist li:not(.is-out) input:not(:checked)")
    expect(page.locator(".handlist li")).not_to_have_count(0)
    while left := open_ones.count():
        open_ones.first.locator("xpath=..").click()
        expect(open_ones).to_have_count(left - 1)
