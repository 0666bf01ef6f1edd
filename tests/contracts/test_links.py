"""One contract for every controller: all of a program arrives, or it ends in good order.

Oddities are those that controllers of the open line protocol are known for (common
practice, no source); numbers of the protocol are from memory.
"""

import re

import numpy as np
import pytest

from standins.controller import Settings
from support.ports import OddPort, burned, played, rows, until
from workshop.controller.errors import LinkError
from workshop.controller.orders import Orders
from workshop.controller.program import Program, RowTable
from workshop.controller.session import Session

LINES, STARTS = rows()


def chatty(text):
    return f"[MSG:hello]\n{text}\n\n[echo: X1]\n"


def without_bf(text):
    return re.sub(r"\|Bf:[0-9,]+", "", text) + "\n"


def work_places(text):
    """Reports places from job zero, as some do, and its offset now and then."""
    return text.replace("MPos:", "WPos:") + "\n"


class Swallowing:
    """Noise on the line swallows an answer, or adds one, now and then."""

    def __init__(self, every, instead, tell=lambda text: text + "\n"):
        self.every, self.instead, self.tell, self.count = every, instead, tell, 0

    def __call__(self, text):
        if text != "ok":
            return self.tell(text)
        self.count += 1
        return self.instead if self.count % self.every == 0 else "ok\n"


ODD = {
    "plain": {},
    "carriage returns": {"tell": lambda text: text + "\r\n"},
    "lower case": {"tell": lambda text: text.lower() + "\n"},
    "chatty": {"tell": chatty},
    "no room told": {"tell": without_bf},
    "work places": {"tell": work_places},
    "no greeting": {"greets": False},
    "answers swallowed": {"tell": Swallowing(97, "\xff\x00o\x7f\n")},
    "answers swallowed, no room told": {"tell": Swallowing(97, "~~\n", without_bf)},
    "a large buffer": {"settings": Settings(look_ahead=128)},
}


class Bench:
    """A session on an odd port, and a program for it."""

    def __init__(self, folder, **odd):
        self.port = OddPort(**odd)
        self.session = Session("odd", opener=lambda: self.port)
        self.path = folder / "job.gcode"
        self.path.write_text("; a remark\n" + "\n".join(LINES) + "\n")

    def start(self, *, name="7", **more):
        table = RowTable(STARTS, [0.1 * row for row in range(len(STARTS))], 1.2)
        kind = more.pop("kind", "burn")
        journal = self.path.with_suffix(".journal")
        program = Program(self.path, **more)
        self.session.ask(lambda: self.session.start(kind, name, program, table, journal))

    def ended(self, seconds=60):
        until(lambda: not self.session.snapshot()["busy"], seconds)
        return self.session.snapshot()["program"]

    @property
    def machine(self):
        return self.port.device.machine


@pytest.fixture
def bench(tmp_path):
    made = []

    def make(**odd):
        made.append(Bench(tmp_path, **odd))
        return made[-1]

    yield make
    for one in made:
        one.session.close()


@pytest.mark.parametrize("name", ODD)
def test_a_program_arrives_whole(bench, name):
    at = bench(**ODD[name])
    at.start()
    told = at.ended()
    assert (told["state"], told["fault"]) == ("done", "")
    assert (told["rows"], told["rows_all"]) == (12, 12)
    assert at.port.device.lost == 0
    # With M4 a dot's dose is the same at any speed, so also where answers are waited for.
    assert np.allclose(burned(at.machine), played(LINES), atol=1e-5)
    assert not at.machine.lit


def in_good_order(at):
    """Held, then reset, and no line after the hold."""
    assert re.search(rb"!\??!?\??(\?)*\x18", at.port.written)
    after = at.port.written[at.port.written.rindex(b"!") :]
    assert set(after) <= set(b"!?\x18")
    assert not at.machine.lit
    assert at.machine.queued == 0


def test_a_refused_line_ends_it(bench):
    at = bench()
    text = at.path.read_text().replace("G1X1.2S500", "G1X1.2Q500", 1)
    at.path.write_text(text)
    at.start()
    told = at.ended()
    assert told["state"] == "failed"
    assert "refused line 16, “G1X1.2Q500”: it does not know this word" in told["fault"]
    in_good_order(at)
    said = at.path.with_suffix(".transcript").read_text()
    assert "< error:20" in said
    until(lambda: at.session.snapshot()["state"] == "idle")


def test_an_alarm_is_named(bench):
    at = bench()
    at.start()
    until(lambda: at.session.snapshot()["program"]["lines"] > 60)
    at.port.happens("alarm", 1)
    told = at.ended()
    assert (told["state"], told["rows"] < 12) == ("failed", True)
    assert "limit switch" in told["fault"]
    assert [said for _, said in told["alarms"]] == [told["fault"]]
    in_good_order(at)
    with pytest.raises(LinkError, match="limit switch"):
        at.start()
    at.session.ask(at.session.home)
    at.start(name="8")
    assert at.ended()["state"] == "done"


def test_a_board_that_starts_anew_is_noticed(bench):
    at = bench()
    at.start()
    until(lambda: at.session.snapshot()["program"]["lines"] > 60)
    at.port.happens("reset")
    assert at.ended()["state"] == "failed"


def test_silence_ends_it_with_a_reset(bench, monkeypatch):
    monkeypatch.setattr("workshop.controller.link.ANSWER_S", 0.4)
    at = bench()
    at.start()
    until(lambda: at.session.snapshot()["program"]["lines"] > 60)
    at.port.tell = lambda _: ""
    told = at.ended()
    assert "stopped answering" in told["fault"]
    assert at.port.closed
    in_good_order(at)


def test_a_cut_cable_gets_its_sentence(bench):
    at = bench()
    at.start()
    until(lambda: at.session.snapshot()["program"]["lines"] > 60)

    def gone(*_):
        raise OSError

    at.port.read = at.port.write = gone
    assert "connection to the controller was lost" in at.ended()["fault"]
    assert not at.session.snapshot()["connected"]


@pytest.mark.parametrize("lines", [0, 1, 100, 400])
def test_a_stop_at_any_moment(bench, lines):
    at = bench()
    at.start()
    until(lambda: at.session.snapshot()["program"]["lines"] >= lines)
    at.session.stop("7")
    told = at.ended()
    assert told["state"] == "stopped"
    in_good_order(at)
    assert at.machine.slip == (0, 0)  # it was at rest before the reset
    assert at.session.snapshot()["alarm"] == ""


def test_a_stop_that_comes_before_the_start_is_kept(bench):
    at = bench()
    at.session.ask(at.session.connect)
    at.session.stop("7")
    with pytest.raises(LinkError, match="stopped before it began"):
        at.start()
    assert at.machine.beam_s == 0


def test_a_hold_finishes_its_row_and_leaves_no_mark(bench):
    at = bench()
    at.path.write_text(at.path.read_text().replace("M4", "M3"))
    at.start()
    until(lambda: at.session.snapshot()["program"]["lines"] > 60)
    at.session.ask(at.session.hold)
    until(lambda: at.session.snapshot()["program"]["state"] == "held")
    until(lambda: not at.machine.lit)  # the row ends with the beam on
    assert at.machine.position_mm[0] == pytest.approx(4.0)  # at a row's end
    assert at.session.snapshot()["program"]["rows"] < 12
    at.session.ask(at.session.go_on)
    told = at.ended()
    assert (told["state"], told["holds"], told["alarms"]) == ("done", 1, [])
    assert np.array_equal(burned(at.machine) > 0, played(LINES) > 0)
    assert at.machine.standing_s == 0


def test_a_second_hold_is_at_once(bench):
    at = bench()
    at.port.step_s = 0.002
    at.start()
    until(lambda: at.session.snapshot()["program"]["lines"] > 5)
    at.session.ask(at.session.hold)
    at.session.ask(at.session.hold)
    until(lambda: at.session.snapshot()["program"]["state"] == "held")
    assert at.session.snapshot()["state"] == "hold"
    at.session.ask(at.session.go_on)
    at.port.step_s = 0.05
    told = at.ended()
    assert (told["state"], told["holds"]) == ("done", 1)


def test_a_program_waits_for_its_operator(bench):
    at = bench()
    at.path.write_text(at.path.read_text().replace("G0X0Y0.5S0", "M0\nG0X0Y0.5S0"))
    at.start()
    until(lambda: at.session.snapshot()["program"]["state"] == "waiting")
    at.session.ask(at.session.go_on)
    assert at.ended()["state"] == "done"


CARVES = """G21\nG90\nG94\nG0Z3\nM3S9000\nG0X2Y1\nG0Z0.5\nG1Z-0.4F600\nX8\nG0Z3
M5\nM0 ; touch off: V-tool 30 deg\nG21\nG90\nG94\nG0Z3\nM3S9000
G0X2Y3Z3\nG0Z0.5\nG1Z-0.7F600\nX8\nG0Z3\nM5\nM2
"""


def test_another_tool_is_touched_off_in_the_middle_of_a_program(bench):
    at = bench(settings=Settings(look_ahead=16, tool="spindle", surface=(-6.2, 0, 0)))
    at.path.write_text(CARVES)
    at.session.ask(lambda: at.session.probe(20))
    at.session.ask(
        lambda: at.session.start(
            "burn", "7", Program(at.path), RowTable([5, 17], [0.0, 2.0], 4.0)
        )
    )
    until(lambda: at.session.snapshot()["program"]["state"] == "waiting")
    told = at.session.snapshot()
    assert told["program"]["asks"] == "V-tool 30 deg"
    assert not told["touched"]
    with pytest.raises(LinkError, match="Touch V-tool 30 deg off first"):
        at.session.ask(at.session.go_on)
    # Its tip is elsewhere; whoever moves it, and where to, is no part of the program.
    at.machine.take_up("V-tool 30 deg")
    assert abs(at.machine.longer) > 0.5
    at.session.ask(lambda: at.session.jog(5, 5, 20))
    until(lambda: at.machine.position_mm == (13, 6) and not at.machine.queued)
    until(lambda: at.session.snapshot()["state"] == "idle")
    at.session.ask(lambda: at.session.probe(20))
    at.session.ask(at.session.go_on)
    told = at.ended()
    assert (told["state"], told["fault"], told["asks"]) == ("done", "", "")
    assert told["rows"] == 2
    assert told["lines"] in (len(CARVES.splitlines()) - 1, len(CARVES.splitlines()))
    deep = {}
    for _, y0, z0, _, y1, z1, tool in at.machine.cuts():
        deep[y0] = min(deep.get(y0, 0), z0, z1)
        assert y0 == (1, 3)[int(tool)] == y1
    assert deep == pytest.approx({1: -6.6, 3: -6.9}, abs=1e-3)


def test_a_dry_run_burns_nothing(bench):
    at = bench()
    at.start(kind="dry", dry=True, feed_mm_min=3000)
    assert at.ended()["state"] == "done"
    assert at.machine.beam_s == 0
    assert at.machine.clock_s > 12 * 4 / 50


def test_a_walk_goes_round_until_it_is_stopped(bench):
    at = bench()
    at.start(kind="walk", again=True, dry=True)
    until(lambda: at.port.written.count(b"G0X0Y0.5S0") > 2)
    at.session.stop()
    assert at.ended()["state"] == "stopped"


def test_one_program_at_a_time(bench):
    at = bench()
    at.start(kind="walk", again=True, dry=True)
    with pytest.raises(LinkError, match="busy"):
        at.start(name="8")


def test_a_file_that_is_gone_is_told(bench):
    at = bench()
    at.path.unlink()
    with pytest.raises(LinkError, match="could not do this"):
        at.start()
    assert not at.session.snapshot()["busy"]


def test_a_fault_of_the_link_itself_puts_the_beam_out(bench, monkeypatch):
    at = bench()
    at.start()
    until(lambda: at.session.snapshot()["program"]["lines"] > 60)
    monkeypatch.setattr("workshop.controller.streaming.Streaming.follow", lambda *_: 1 / 0)
    told = at.ended()
    assert "The link has a fault" in told["fault"]
    assert at.port.closed
    in_good_order(at)
    monkeypatch.undo()
    at.port.closed = False
    at.start(name="8")
    assert at.ended()["state"] == "done"


def test_trims_are_logged(bench):
    at = bench()
    at.start(kind="burn", again=True)
    at.session.ask(lambda: at.session.trim("speed", 10))
    at.session.ask(lambda: at.session.trim("power", -1))
    until(lambda: at.session.snapshot()["program"]["trims"][-1:] != [])
    until(lambda: at.session.snapshot()["program"]["trims"][-1][1:] == (110, 99))
    at.session.stop()
    at.ended()
    with pytest.raises(LinkError, match="steps of 1 or 10"):
        at.session.ask(lambda: at.session.trim("power", 7))


def test_the_faint_beam_goes_out_by_itself(bench):
    at = bench()
    at.session.ask(lambda: at.session.faint(2.0, 0.3))
    assert at.machine.scorching == pytest.approx(0.02)
    until(lambda: not at.machine.lit)
    with pytest.raises(LinkError, match="at most 5 %"):
        at.session.ask(lambda: at.session.faint(20))


def test_a_jog_that_nobody_holds_ends(bench):
    at = bench()
    at.port.step_s = 0.001
    at.session.ask(lambda: at.session.jog(300, 0, 5.0))
    at.session.keep()
    until(lambda: at.session.snapshot()["state"] == "idle" and b"\x85" in at.port.written)
    assert at.machine.position_mm[0] < 300


def test_the_machine_is_asked_for_its_settings(bench):
    at = bench(settings=Settings(look_ahead=15, rapid=250.0, s_max=255.0))
    told = at.session.ask(at.session.known_settings)
    assert told["settings"]["110"] == 15000
    assert (told["settings"]["30"], told["bytes"], told["blocks"]) == (255, 128, 15)


def test_the_journal_ends_as_the_burn_does(bench):
    at = bench()
    at.start()
    at.ended()
    last = at.path.with_suffix(".journal").read_text().splitlines()[-1]
    assert '"state": "done"' in last
    assert '"rows": 12' in last


def test_what_nobody_waits_for_any_more_does_not_begin_later():
    orders, done = Orders(), []
    with pytest.raises(LinkError, match="too long"):
        orders.ask(lambda: done.append("late"), 0.01)
    orders.take(lambda _: None, wait=True)
    assert done == []
