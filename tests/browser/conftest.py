"""One workshop and one browser for all walks."""

import os
import re
import shutil

import pytest
from playwright.sync_api import expect

from support.running import chromium, fill, made_once, workshop

# Machines are shared: what takes a blink here may take seconds beside other work.
expect.set_options(timeout=60_000)


@pytest.fixture(scope="session")
def folder(tmp_path_factory):
    """Where this process's workshop keeps its data: its own copy of the demo."""
    shared = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        shared = shared.parent
    own = tmp_path_factory.mktemp("workshop") / "var"
    return shutil.copytree(made_once(shared / "demo", fill), own)


@pytest.fixture(scope="session")
def address(folder):
    with workshop(folder) as running:
        yield running


@pytest.fixture(scope="session")
def browser():
    with chromium() as running:
        yield running


@pytest.fixture
def page(browser, address):
    """A page that fails its test when the console shows an error."""
    context = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800})
    # Machines are shared: reading a photo may take half a minute beside other work.
    context.set_default_timeout(90_000)
    page = context.new_page()
    faults = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    page.on(
        "console",
        lambda message: faults.append(message.text) if message.type == "error" else None,
    )
    page.faults = faults
    yield page
    context.close()
    # What is past (410) is asked for anew by itself; what is refused (422) has its sentence.
    unexpected = [fault for fault in faults if not re.search(r"\b(422|410)\b", fault)]
    assert unexpected == []
