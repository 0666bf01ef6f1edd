"""Off loopback: who may do what, how often one may try, and which hosts are answered."""

import pytest
from django.contrib.auth import get_user_model
from django.core.management import CommandError, call_command

from support.pages import read

LOGIN = "django.contrib.auth.middleware.LoginRequiredMiddleware"


@pytest.fixture
def off_loopback(settings, db):
    settings.REQUIRE_LOGIN = True
    settings.MIDDLEWARE = [*settings.MIDDLEWARE, LOGIN]


@pytest.fixture
def somebody(off_loopback, monkeypatch, client):
    """Make somebody of a role, signed in."""
    monkeypatch.setenv("OPERATOR_PASSWORD", "long enough to be one")

    def make(role):
        call_command("operator", role, "--role", role, verbosity=0)
        client.force_login(get_user_model().objects.get(username=role))
        return client

    return make


def sign_in(client, password, name="burns"):
    return client.post("/sign-in/", {"username": name, "password": password})


def test_nobody_is_let_in_without_signing_in(client, off_loopback):
    answer = client.get("/")
    assert (answer.status_code, answer.url.split("?")[0]) == (302, "/sign-in/")


def test_wrong_passwords_are_answered_five_times(client, somebody):
    somebody("burns")
    client.logout()
    codes = [sign_in(client, f"wrong {at}").status_code for at in range(20)]
    assert codes[:4] == [200] * 4
    assert set(codes[5:]) == {429}
    # The right one is no way round it, and one of another name from there neither.
    assert sign_in(client, "long enough to be one").status_code == 429
    assert "Wait five minutes" in read(sign_in(client, "x", "other"))


@pytest.mark.parametrize(
    ("role", "prepares", "burns"),
    [("looks", False, False), ("prepares", True, False), ("burns", True, True)],
)
def test_roles_reach_as_far_as_they_say(somebody, ticket, role, prepares, burns):
    client = somebody(role)
    number, machine = ticket.number, ticket.machine_id
    assert client.get(f"/jobs/{number}/").status_code == 200
    undo = client.post(f"/jobs/{number}/undo/")
    assert (undo.status_code != 403) is prepares
    press = client.post(f"/bench/machines/{machine}/do/hold/")
    assert (press.status_code != 403) is burns
    if not burns:
        assert "needs somebody who burns" in press.json()["fault"]
        assert client.post(f"/bench/jobs/{number}/burn/").status_code == 403
    # Whoever sees smoke may stop it.
    assert client.post(f"/bench/machines/{machine}/stop/").status_code != 403


def test_who_was_removed_signs_in_no_more(somebody):
    client = somebody("looks")
    call_command("operator", "looks", "--remove", verbosity=0)
    assert client.get("/").status_code == 302


def test_a_weak_password_is_refused(off_loopback, monkeypatch):
    monkeypatch.setenv("OPERATOR_PASSWORD", "12345")
    with pytest.raises(CommandError, match="too short"):
        call_command("operator", "mk", verbosity=0)


def test_only_named_hosts_are_answered(client, db):
    assert client.get("/", headers={"Host": "evil.example"}).status_code == 400


def test_another_sites_page_can_start_nothing(ticket):
    from django.test import Client

    client = Client(enforce_csrf_checks=True, headers={"Host": "127.0.0.1"})
    client.get("/")
    token = client.cookies["csrftoken"].value
    where = f"/bench/jobs/{ticket.number}/burn/"
    for headers in (
        {"Origin": "http://evil.example", "X-CSRFToken": token},
        {"Origin": "null", "X-CSRFToken": token},
        {},
    ):
        assert client.post(where, headers=headers).status_code == 403
    own = {"Origin": "http://127.0.0.1", "X-CSRFToken": token}
    assert client.post(where, headers=own).status_code == 200
