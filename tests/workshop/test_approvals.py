"""A proof there and back."""

import base64
import io
import re

import pytest
from django.test import Client
from PIL import Image

from support.pages import read
from workshop.jobs.models import Approval
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.takes.takes import keep

SAID = {"chosen": "0", "name": "Ada", "remark": "Lovely"}


def asked(client, ticket, **words):
    client.post(f"/jobs/{ticket.number}/proofs/", {"message": "Is it right?", **words})
    approval = Approval.objects.first()
    return approval, f"/proofs/{approval.token}/"


@pytest.fixture
def guest(settings):
    """Somebody with nothing but the address, where everybody else must sign in."""
    settings.REQUIRE_LOGIN = True
    settings.MIDDLEWARE = [
        *settings.MIDDLEWARE, "django.contrib.auth.middleware.LoginRequiredMiddleware",
    ]  # fmt: skip
    return Client()


def test_there_and_back(client, act, ticket):
    _, where = asked(client, ticket)
    page = read(Client().get(where))
    assert "Is it right?" in page
    assert "on Board, Wood" in page
    assert "<nav" not in page
    assert f"/jobs/{ticket.number}" not in page  # nothing leads further
    with Image.open(io.BytesIO(client.get(f"{where}0.jpg").content)) as picture:
        assert max(picture.size) > 500
    assert Client().post(where, SAID).url == where
    assert "Approved by Ada" in read(Client().get(where))
    there = f"/jobs/{ticket.number}/"
    page = read(client.get(there))
    assert "Approved by Ada" in page
    assert "changed since" not in page
    act("burn", air=True)  # no other picture
    assert "changed since" not in read(client.get(there))
    act("tone", gamma="1.7")
    assert "changed since" in read(client.get(there))
    approval = Approval.objects.get()
    client.post(f"/jobs/{ticket.number}/proofs/{approval.pk}/follow/")
    ticket.refresh_from_db()
    assert spec_of(ticket).tone.gamma == 1
    assert "changed since" not in read(client.get(there))


def test_one_of_several_takes_is_chosen(client, act, ticket):
    first = keep(ticket, "Pale")
    act("tone", gamma="1.6")
    second = keep(ticket)
    act("tone", gamma="1.2")
    approval, where = asked(client, ticket, takes=[first.pk, second.pk])
    page = read(Client().get(where))
    assert "A, Pale" in page
    first.delete()  # what was shown stays as it was
    Client().post(where, {**SAID, "chosen": "0"})
    client.post(f"/jobs/{ticket.number}/proofs/{approval.pk}/follow/")
    ticket.refresh_from_db()
    assert spec_of(ticket).tone.gamma == 1


def test_a_change_is_asked_for(client, ticket):
    approval, where = asked(client, ticket)
    assert "what should be changed" in read(
        Client().post(where, {"chosen": "change", "name": "Ada"})
    )
    Client().post(where, {"chosen": "change", "name": "Ada", "remark": "<b>Darker</b>"})
    approval.refresh_from_db()
    assert (approval.chosen, approval.remark) == (None, "<b>Darker</b>")
    page = read(client.get(f"/jobs/{ticket.number}/proofs/"))
    assert "Ada wants a change" in page
    assert "&lt;b&gt;Darker" in page


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        ({"chosen": "7"}, "Choose one"),
        ({"chosen": ""}, "Choose one"),
        ({"name": " "}, "write your name"),
    ],
)
def test_what_cannot_be_taken_is_said_and_nothing_typed_is_lost(
    client, ticket, words, sentence
):
    approval, where = asked(client, ticket)
    page = read(Client().post(where, SAID | words))
    assert sentence in page
    assert "Lovely" in page
    approval.refresh_from_db()
    assert approval.answered_at is None


def test_taken_back_it_shows_nothing(client, ticket):
    approval, where = asked(client, ticket)
    stale = Client()
    stale.get(where)
    client.post(f"/jobs/{ticket.number}/proofs/{approval.pk}/back/")
    assert "taken back" in read(stale.get(where))
    assert stale.get(f"{where}0.jpg").status_code == 404
    assert "taken back" in read(stale.post(where, SAID))
    approval.refresh_from_db()
    assert approval.answered_at is None


def test_its_address_is_all_a_guest_sees(client, ticket, guest):
    client.force_login(_burner())
    approval, where = asked(client, ticket)
    assert guest.get(where).status_code == 200
    assert guest.get(f"{where}0.jpg").status_code == 200
    assert guest.post(where, SAID).status_code == 302
    for other in ("/", f"/jobs/{ticket.number}/", f"/jobs/{ticket.number}/proofs/"):
        assert guest.get(other).url.startswith("/sign-in/")
    assert guest.get(f"/proofs/{approval.token[:-1]}/").status_code == 404
    assert guest.get("/proofs/x/0.jpg").status_code == 404
    assert len(approval.token) >= 32


def _burner():
    from django.contrib.auth import get_user_model
    from django.contrib.auth.models import Group

    user = get_user_model().objects.create_user("ada")
    user.groups.add(Group.objects.get_or_create(name="burns")[0])
    return user


def test_one_file_needs_nothing_else(client, ticket):
    approval, _ = asked(client, ticket)
    answer = client.get(f"/jobs/{ticket.number}/proofs/{approval.pk}/file/")
    text = answer.content.decode()
    assert not re.findall(r'(?:src|href)="(?!data:|mailto:)', text)
    [picture] = re.findall(r"data:image/jpeg;base64,([^\"]+)", text)
    with Image.open(io.BytesIO(base64.b64decode(picture))) as image:
        assert image.format == "JPEG"
    client.post(f"/jobs/{ticket.number}/proofs/{approval.pk}/note/", SAID)
    approval.refresh_from_db()
    assert approval.said == "Approved by Ada"


def test_too_many_takes_and_takes_that_are_gone_are_refused(client, act, ticket):
    page = read(
        client.post(f"/jobs/{ticket.number}/proofs/", {"takes": ["99"], "message": "Hm"})
    )
    assert "These takes are gone" in page
    assert "Hm" in page
    takes = []
    for step in range(7):
        act("tone", gamma=f"1.{step + 1}")
        takes.append(keep(ticket).pk)
    page = read(client.post(f"/jobs/{ticket.number}/proofs/", {"takes": takes}))
    assert "6 takes are shown at most" in page
    assert not Approval.objects.exists()


def test_a_ticket_that_goes_takes_what_was_sent_with_it(client, ticket, settings):
    _, where = asked(client, ticket)
    kept = settings.MEDIA_ROOT / "proofs"
    client.post(f"/jobs/{ticket.number}/remove/")
    assert Client().get(where).status_code == 404
    assert Client().get(f"{where}0.jpg").status_code == 404
    assert list(kept.iterdir())  # it may be put back
    client.post("/bin/", {"number": ticket.number, "do": "drop"})
    assert not list(kept.iterdir())


def test_a_proof_of_several_takes_is_printed_a_page_each(client, act, ticket):
    from pypdf import PdfReader

    takes = []
    for gamma in ("1.2", "1.6"):
        act("tone", gamma=gamma)
        takes.append(keep(ticket).pk)
    approval, _ = asked(client, ticket, takes=takes)
    answer = client.get(f"/jobs/{ticket.number}/proofs/{approval.pk}/file/?as=pdf")
    pages = PdfReader(io.BytesIO(answer.content)).pages
    assert [("Approved, name" in one.extract_text()) for one in pages] == [True, True]
