"""A page names all scripts that its scripts import, so that they come at once."""

import re
from pathlib import Path

from django.contrib.staticfiles import finders

from support.pages import read
from workshop.shell.modules import reached


def test_every_import_of_a_ticket_is_named_and_there(client, ticket):
    page = read(client.get(f"/jobs/{ticket.number}/"))
    named = set(
        re.findall(r'<link rel="modulepreload" href="/static/[0-9a-f]+/([^"]+)"', page)
    )
    began = set(re.findall(r'<script type="module" src="/static/[0-9a-f]+/([^"]+)"', page))
    assert {"jobs/js/ticket.js", "shell/js/page.js"} <= began
    for name in named | began:
        text = Path(finders.find(name)).read_text()
        last = re.findall(r"^(?:import|export).*'[^']*?([\w.-]+\.js)'", text, re.MULTILINE)
        assert {one.rsplit("/", 1)[1] for one in reached(name)} >= set(last), name
        assert {one.rsplit("/", 1)[1] for one in named | began} >= set(last), name
    assert len(named) > 30
