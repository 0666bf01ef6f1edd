"""Tasks in a Redis, files in a folder of their own: two workers, and the same burns."""

import re
import shutil
import sqlite3
import subprocess
import time
from contextlib import closing, contextmanager

import pytest
import redis
from playwright.sync_api import expect

from support.running import running_workshop
from support.walking import ask_base, sign_off, small_ticket, tick_all


@contextmanager
def a_redis(folder):
    """A real server without files, on a socket of its own; its address."""
    socket = folder / "redis.sock"
    command = ["redis-server", "--port", "0", "--unixsocket", str(socket), "--save", ""]
    with subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL) as server:
        try:
            while not socket.exists():
                assert server.poll() is None
                time.sleep(0.02)
            yield f"unix://{socket}"
        finally:
            server.terminate()


@pytest.fixture
def pair(folder, tmp_path):
    """A workshop with two workers, its files elsewhere; the processes and the Redis."""
    leave = shutil.ignore_patterns("link", "*.sqlite3*")
    own = shutil.copytree(folder, tmp_path / "var", ignore=leave)
    # It is in use: what is open is asked for a copy, not copied as it lies.
    base = "workshop.sqlite3"
    with (
        closing(sqlite3.connect(folder / base)) as used,
        closing(sqlite3.connect(own / base)) as copy,
    ):
        used.backup(copy)
    shutil.move(own / "files", tmp_path / "files")
    settings = {"OLD_EMBER_FILES": str(tmp_path / "files")}
    with (
        a_redis(tmp_path) as url,
        running_workshop(own, workers=2, OLD_EMBER_REDIS=url, **settings) as running,
    ):
        yield running, redis.Redis.from_url(url)


def waiting(server):
    """How many threads of workers wait for a task."""
    return sum(one["cmd"] == "brpop" for one in server.client_list())


def burn(page):
    page.get_by_role("button", name=re.compile("Burn( again)? on the stand-in")).click()
    expect(page.locator("#burn")).not_to_contain_text("Every one of")
    expect(page.locator("#burn")).to_contain_text("Every one of", timeout=180_000)


def test_either_of_two_workers_burns_and_the_map_is_the_same(browser, pair, tmp_path):
    running, server = pair
    while waiting(server) < 4:
        time.sleep(0.1)
    page = browser.new_context(base_url=running.address).new_page()
    number = small_ticket(page, tmp_path)
    sign_off(page)
    page.locator("#row-run").click()
    tick_all(page)
    burn(page)
    running.kill("worker")
    page.goto(f"/jobs/{number}/run/")
    tick_all(page)
    burn(page)
    runs = ask_base(running.folder, "select id, state, held from bench_run order by id")[
        -2:
    ]
    assert [state for _, state, _ in runs] == ["done", "done"]
    maps = [next((tmp_path / "files").rglob(f"{run}/map.png")) for run, _, _ in runs]
    assert maps[0].read_bytes() == maps[1].read_bytes()
    assert not (running.folder / "tasks.sqlite3").exists()
    assert not (running.folder / "files").exists()
