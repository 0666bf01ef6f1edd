"""The rack on a day with many tickets: narrowed, several at once, by a pattern."""

import re

from playwright.sync_api import expect

from support.jobs import photograph


def hanging(page):
    return page.locator(".rticket:not(.rticket--new)")


def test_the_hundredth_job(page, tmp_path):
    files = [tmp_path / f"disc {i}.png" for i in range(3)]
    for i, file in enumerate(files):
        file.write_bytes(photograph(120 + i, 90))
    page.goto("/")
    page.get_by_label("Pictures for the pattern Slate discs").set_input_files(files)
    expect(page.locator("#said")).to_contain_text("3 tickets")
    page.locator(".rack__narrow summary").click()
    page.get_by_label("Substrate").select_option(label="Slate")
    expect(page.locator(".hang__bar").first).to_contain_text("all to do")
    page.reload()
    for name in ("disc 0", "disc 1", "disc 2"):
        expect(hanging(page).filter(has_text=name)).to_have_count(1)
    page.get_by_role("searchbox").fill("disc")
    expect(page.locator(".hang__bar").first).to_contain_text("with “disc”")
    for name in ("disc 0", "disc 1"):
        hanging(page).filter(has_text=name).locator("input[type=checkbox]").focus()
        page.keyboard.press("Space")
    expect(page.locator(".severalbar__count")).to_have_text("2 chosen")
    page.get_by_role("button", name="Remove").click()
    expect(page.locator("#said")).to_contain_text("2 tickets in the bin")
    expect(hanging(page).filter(has_text=re.compile("disc [01]"))).to_have_count(0)
    page.get_by_role("button", name="Put it back").click()
    expect(hanging(page).filter(has_text=re.compile("disc [012]"))).to_have_count(3)
