"""Make the pictures in docs/screenshots from the demo: ``make screenshots``."""

import json
import math
import socket
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "tests")]

from support.running import chromium, fill, until, workshop  # noqa: E402
from support.walking import open_station, sign_off, tick_all  # noqa: E402

BRISK, SLOW = 900, 25
witness_port = ""
TARGET = ROOT / "docs" / "screenshots"
VIEWS = {
    "rack": "/",
    "artwork": "/jobs/407/artwork/",
    "blank": "/jobs/407/blank/",
    "tone": "/jobs/406/tone/",
    "dots": "/jobs/405/dots/",
    "relief": "/jobs/417/dots/",
    "burn": "/jobs/404/burn/",
    "outlines": "/jobs/414/outlines/",
    "place": "/jobs/410/place/",
    "rotary": "/jobs/412/place/",
    "check": "/jobs/405/check/",
    "run": "/jobs/402/run/",
    "shelf": "/shelf/",
    "machine": "/shelf/machines/1/",
    "bench": "/bench/machines/1/?job=414",
    "learned": "/jobs/406/run/",
    "file": "/",
}


def main() -> None:
    """Photograph every main view at 1280 × 800, and one at a phone's width."""
    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, chromium() as browser:
        fill(folder)
        with workshop(folder, pace=BRISK) as address:
            global witness_port  # noqa: PLW0603 (one run, one stand-in)
            witness_port = json.loads((Path(folder) / "ports.json").read_text())[0][1]
            photograph_all(browser, address)


def photograph_all(browser, address: str) -> None:  # noqa: ANN001
    """Photograph the views of a running workshop."""
    page = browser.new_page(base_url=address, viewport={"width": 1280, "height": 800})
    for name, place in VIEWS.items():
        show(page, name, place)
    page.set_viewport_size({"width": 390, "height": 844})
    show(page, "phone-bench", "/bench/machines/1/?job=414")
    show(page, "phone-tone", "/jobs/403/tone/")


def show(page, name: str, place: str, *, whole: bool = False) -> None:  # noqa: ANN001
    """Open a place, let it settle, take its picture."""
    address, _, fold = place.partition("#")
    page.goto(address)
    if fold.startswith("key:"):
        page.wait_for_timeout(1500)
        page.keyboard.press(fold.removeprefix("key:"))
        page.wait_for_timeout(2000)
    elif fold:
        unfold(page, fold)
    if name == "learned":
        learned(page)
    if name == "file":
        opened(page)
    if "bench" in name:
        burning(page)
    if name == "run":
        signed(page)
        page.locator("#burn-button").click()
        page.locator(".twin").wait_for(timeout=60_000)
    page.wait_for_timeout(500)
    until(page, "!document.querySelector('#readings.is-waiting, .spread__wait')")
    page.wait_for_timeout(900)
    page.screenshot(path=TARGET / f"{name}.png", full_page=whole)
    print(f"docs/screenshots/{name}.png")
    if "bench" in name:
        pace(BRISK)
        page.wait_for_timeout(2000)


def learned(page) -> None:  # noqa: ANN001
    """Burn a piece, photograph it, and show what it teaches."""
    signed(page)
    page.locator("#burn-button").click()
    page.locator(".twin").wait_for(timeout=300_000)
    page.goto("/bench/log/")
    page.locator("tbody a").first.click()
    page.get_by_role("button", name="Photograph what the stand-in burned").click()
    page.get_by_text("know its tones").wait_for(timeout=60_000)
    page.evaluate("document.querySelector('#teaches').scrollIntoView()")


def opened(page) -> None:  # noqa: ANN001
    """Drop a file of G-code that was made elsewhere on the rack."""
    lines = ["(a wave, made elsewhere)", "G21 G90", "M4"]
    for row in range(260):
        y, middle = 30 + row * 0.15, 60 + 18 * math.sin(row / 24)
        lines += [f"G0 X{middle - 30:.3f} Y{y:.3f}"]
        for step in range(12):
            power = round(127 + 120 * math.sin(step / 2 + row / 30))
            lines += [f"G1 X{middle - 25 + 5 * step:.3f} S{power} F9000"]
    text = "\n".join([*lines, "M5", "M2"]).encode()
    upload = {"name": "wave.nc", "mimeType": "text/plain", "buffer": text}
    page.set_input_files("#upload-files", upload)
    page.wait_for_url("**/bench/files/*/")


def signed(page) -> None:  # noqa: ANN001
    """Sign off the cautions where there are any, and come back."""
    page.locator("#burn-button").wait_for()
    if page.locator("#burn-held").count():
        sign_off(page)
        open_station(page, 9)
    tick_all(page)


def pace(times: float) -> None:
    """Let the stand-in's clock run so much faster."""
    with socket.create_connection(("127.0.0.1", int(witness_port))) as asked:
        asked.sendall(json.dumps({"pace": times}).encode() + b"\n")
        asked.recv(1000)


def burning(page) -> None:  # noqa: ANN001
    """Burn, and look while a good part of it is done."""
    page.wait_for_timeout(600)
    pace(SLOW)
    tick_all(page)
    page.locator("[data-do=burn]").click()
    page.locator("[data-do=burn]").click()
    page.get_by_text("Burning. Job").wait_for(timeout=120_000)
    page.wait_for_timeout(3500)


def unfold(page, name: str) -> None:  # noqa: ANN001
    """Open a fold of the station, unless it was left open."""
    fold = page.locator(f"[data-fold={name}]")
    if fold.get_attribute("open") is None:
        fold.locator("summary").first.click()


if __name__ == "__main__":
    main()
