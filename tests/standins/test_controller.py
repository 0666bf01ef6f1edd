"""The stand-in controller by itself: words, errors, states, its small buffer."""

import json
import re
import socket
import time

import numpy as np
import pytest

from standins.controller import Machine, Settings
from standins.controller.device import GREETING, RECEIVES, Device
from standins.controller.interpreter import FaultError, Interpreter
from standins.controller.server import StandIn


# Numbers of the open line protocol (from memory).
@pytest.mark.parametrize(
    ("line", "code"),
    [("?", 1), ("G1 X1e-5", 20), ("G2 X1", 20), ("M6", 20), ("G1 X5", 22), ("G0 G1 X1", 21),
     ("S-1", 4), ("; " + "x" * 90, 11), ("X", 2)],
)  # fmt: skip
def test_faults(line, code):
    with pytest.raises(FaultError) as caught:
        Interpreter().line(line)
    assert caught.value.code == code


def test_modal_words():
    reader = Interpreter()
    assert reader.line("G20 G91 (inch) ; relative") is None
    assert reader.line("g1x1f60s500m3")[:3] == pytest.approx((25.4, 0, 25.4))
    assert reader.line("Y1")[:2] == pytest.approx((25.4, 25.4))
    assert reader.line("G0 X-1").power == 0


def test_rest_to_rest_by_ticks():
    """100 mm at 500 mm/s and 5000 mm/s²: 0.3 s by uniform acceleration."""
    machine = Machine(Settings(acceleration=5000))
    for line in ("G1 X100 F30000", "M2"):
        machine.take(line)
    machine.run()
    assert machine.clock_s == pytest.approx(0.3, rel=2e-3)
    assert machine.position_mm == pytest.approx((100, 0))


def test_power_follows_speed_only_with_m4():
    energies = []
    for beam in ("M3", "M4"):
        machine = Machine(Settings(acceleration=1000))
        for line in (f"{beam} S1000", "G1 X20 F6000", "M2"):
            machine.take(line)
        machine.run()
        energies.append(machine.strokes()[:, 4].sum())
    # 20 mm at 100 mm/s, ramps of 5 mm each: 0.3 s; with M4 only length / speed
    assert energies == pytest.approx([0.3, 0.2], rel=5e-3)


class Spoken:
    """A device and all it said; its clock runs only when told to."""

    def __init__(self, **settings):
        self.said = []
        self.device = Device(Settings(look_ahead=16, **settings), self.said.append)

    def hear(self, data):
        self.said.clear()
        self.device.receive(data)
        return list(self.said)

    def state(self):
        return re.match(r"<([A-Za-z]+(:\d)?)", self.hear(b"?")[0])[1]

    def run(self, seconds=1e6):
        self.device.advance(seconds, patience_s=0)


def test_answers_come_in_order_between_other_lines():
    device = Spoken()
    assert device.hear(b"G21\nG1X5F600\n?nonsense\nG0\n") == [
        "ok", "ok", device.said[2], "error:2", "ok",
    ]  # fmt: skip
    assert device.said[2].startswith("<Run|MPos:0.000,0.000,0.000|Bf:15,128|FS:0,0|WCO:")


def test_bytes_beyond_the_buffer_are_lost():
    device = Spoken()
    line = b"G1X1F100\n"
    device.hear(line * 16)  # the plan is full
    kept, more = RECEIVES // len(line), 10
    assert device.hear(line * (kept + more)) == []
    assert device.device.lost == (kept + more) * len(line) - RECEIVES
    device.run()
    assert device.said.count("ok") >= kept


def test_an_endless_line_is_refused_and_the_next_one_taken():
    device = Spoken()
    assert device.hear(b"X" * 400 + b"\nG0X1\n") == ["error:11", "ok"]


def test_hold_reset_and_the_place():
    """v²/2a of way to rest: 100 mm/s, 1000 mm/s²: 5 mm (uniformly accelerated motion)."""
    device = Spoken(acceleration=1000.0)
    device.hear(b"M3S1000\nG1X100F6000\n")
    device.run(0.5)
    machine = device.device.machine
    before, burned = machine.position_mm[0], machine.strokes()[:, 4].sum()
    assert machine.lit
    assert device.hear(b"!") == []
    assert device.state() == "Hold:0"
    assert machine.position_mm[0] - before == pytest.approx(5.0, rel=1e-3)
    assert not machine.lit
    assert machine.strokes()[:, 4].sum() == burned  # out from the first byte on
    place = machine.position_mm
    assert device.hear(b"\x18") == [GREETING]
    assert (device.state(), machine.position_mm) == ("Idle", place)


def test_a_reset_while_moving_loses_the_place():
    device = Spoken()
    device.hear(b"G1X100F6000\n")
    device.run(0.5)
    assert device.hear(b"\x18")[:2] == ["ALARM:3", GREETING]
    assert device.state() == "Alarm"
    assert device.hear(b"G0X1\n") == ["error:9"]
    assert device.hear(b"$J=G91X1F600\n") == ["error:8"]
    assert device.device.machine.slip != (0, 0)
    assert device.hear(b"$H\n")[-1] == "ok"
    assert (device.state(), device.device.machine.slip) == ("Idle", (0, 0))


def test_unlock_and_the_door():
    device = Spoken()
    device.device.alarm(1)
    assert device.hear(b"$X\n") == ["[MSG:Unlocked]", "ok"]
    device.hear(b"G1X100F6000\n")
    device.run(0.2)
    device.hear(b"\x84")
    assert device.state() == "Door:0"
    assert device.hear(b"$H\n") == ["error:8"]
    device.hear(b"~")
    assert device.state() == "Run"


def test_jogs_end_at_once():
    device = Spoken(travel=(200.0, 100.0))
    assert device.hear(b"$20=1\n$J=G91X10F600\n") == ["ok", "ok"]
    assert device.state() == "Jog"
    assert device.hear(b"G0X5\n") == ["error:9"]
    device.run(0.5)
    device.hear(b"\x85")
    assert device.state() == "Idle"
    assert 0 < device.device.machine.position_mm[0] < 10
    assert device.hear(b"$J=G90X201F600\n") == ["error:15"]
    assert device.hear(b"$J=X1\n") == ["error:16"]


def test_trims_act_on_what_is_planned():
    device = Spoken(acceleration=1e6)
    device.hear(b"M4S500\nG1X100F6000\n" + b"\x91" * 3 + b"\x94" + b"\x9a" * 2)
    device.hear(b"?")
    for _ in range(10):
        text = device.hear(b"?")[0]
        if "Ov:" in text:
            break
    assert "Ov:129,100,120" in text
    device.run()
    # 100 mm at 129 mm/s and 60 % of power
    assert device.device.machine.clock_s == pytest.approx(100 / 129, rel=1e-2)
    assert device.device.machine.strokes()[:, 4].sum() == pytest.approx(
        0.6 * 100 / 129, rel=0.01
    )
    assert device.hear(b"\x90\x99") == []
    assert device.device.machine.feed_share == 1


def test_check_mode_moves_nothing():
    device = Spoken()
    assert device.hear(b"$C\nG1X5F600\nG9X\n") == ["[MSG:Enabled]", "ok", "ok", "error:2"]
    assert device.state() == "Check"
    assert device.device.machine.queued == 0
    assert device.hear(b"$C\n")[0] == "[MSG:Disabled]"
    assert device.state() == "Idle"


def test_settings_are_listed_and_changed():
    device = Spoken(rapid=300.0, acceleration=3000.0, junction=0.02)
    listed = dict(line[1:].split("=") for line in device.hear(b"$$\n") if line != "ok")
    assert [float(listed[one]) for one in ("11", "30", "32", "110", "120")] == [
        0.02, 1000, 1, 18000, 3000,
    ]  # fmt: skip
    assert device.hear(b"$110=6000\n$30=255\n") == ["ok", "ok"]
    assert device.device.machine.settings.rapid == 100
    assert device.hear(b"$120=0\n$9=1\n$110=abc\n") == ["error:4", "error:3", "error:3"]
    assert device.hear(b"$I\n")[1] == "[OPT:V,16,128]"
    assert device.hear(b"$G\n")[0].startswith("[GC:G0 G54 G17 G21 G90 G94 M5")


def test_without_laser_mode_travel_burns():
    energies = []
    for mode in (b"1", b"0"):
        device = Spoken(acceleration=1000.0)
        device.hear(b"$32=" + mode + b"\nM4S1000\nG1X20F6000\n")
        device.run()
        energies.append(device.device.machine.strokes()[:, 4].sum())
    assert energies == pytest.approx([0.2, 0.3], rel=5e-3)


def test_a_beam_left_on_is_seen():
    """With M3 the beam stays on where a program breaks off amid a row."""
    device = Spoken()
    device.hear(b"M3S500\nG1X10F6000\n")
    device.run()
    machine = device.device.machine
    assert machine.lit
    machine.stand(2.0)
    assert machine.standing_s == pytest.approx(1.0)
    device.hear(b"M5\n")
    assert not machine.lit


@pytest.fixture
def standin():
    with StandIn(Settings(), pace=0) as running:
        yield running


@pytest.fixture
def connect():
    """Connect to a port; everything is closed afterwards."""
    clients = []

    def to(port):
        clients.append(Client(port))
        return clients[-1]

    yield to
    for client in clients:
        client.file.close()
        client.socket.close()


class Client:
    def __init__(self, port):
        self.socket = socket.create_connection(("127.0.0.1", port), timeout=10)
        self.file = self.socket.makefile("rb")

    def say(self, data):
        self.socket.sendall(data)

    def hear(self):
        return self.file.readline().decode().strip()

    def until(self, start, seconds=20):
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            self.say(b"?")
            if (line := self.hear()).startswith(start):
                return line
        return pytest.fail(f"never {start}")


def test_a_port_has_one_owner(standin, connect):
    first, second = connect(standin.port), None
    assert first.hear() == GREETING
    second = connect(standin.port)
    assert second.hear() == ""
    first.socket.shutdown(socket.SHUT_RDWR)
    first.socket.close()
    for _ in range(50):
        if (third := connect(standin.port)).hear() == GREETING:
            return
        third.file.close()
        time.sleep(0.02)
    pytest.fail("the port was not given back")


def test_the_program_waits_and_bytes_act_meanwhile(standin, connect):
    client = connect(standin.port)
    client.hear()
    client.say(b"G1X10F6000\nM0\nG1X20\nM2\n")
    assert [client.hear() for _ in range(4)] == ["ok"] * 4
    assert "MPos:10.000" in client.until("<Hold:0")
    client.say(b"~")
    assert "MPos:20.000" in client.until("<Idle")


def test_who_pulls_the_plug_puts_the_beam_out(connect):
    with StandIn(Settings(), pace=1) as standin:
        client = connect(standin.port)
        client.hear()
        client.say(b"M3S1000\nG1X300F600\n")
        client.until("<Run")
        client.socket.shutdown(socket.SHUT_RDWR)
        until = time.monotonic() + 5
        while standin.controller.device.state() != "Hold:0" and time.monotonic() < until:
            time.sleep(0.01)
        machine = standin.controller.device.machine
        assert not machine.lit
        assert machine.position_mm[0] < 300


def test_the_witness_tells_where_the_energy_went(standin, connect):
    client = connect(standin.port)
    client.hear()
    client.say(b"M3 S1000\nG1 X10 F6000 S0\nX12 S1000\nX20 S0\nM5\nM2\n")
    for _ in range(6):
        assert client.hear() == "ok"
    assert "MPos:20.000" in client.until("<Idle")
    witness = connect(standin.witness_port)
    question = {"map": {"left": 8, "front": -0.5, "cell": [1, 1], "rows": 1, "cols": 6}}
    witness.say(json.dumps(question).encode() + b"\n")
    assert json.loads(witness.hear())["cols"] == 6
    energy = np.frombuffer(witness.file.read(), "<f4")
    assert energy == pytest.approx([0, 0, 0.01, 0.01, 0, 0], abs=1e-5)


@pytest.mark.parametrize(
    "question",
    [b"hello\n", b"{}\n", b'{"map": {}}\n', b"[]\n", b'{"trouble": {"kind": 1}}\n'],
)
def test_the_witness_survives_nonsense(standin, connect, question):
    witness = connect(standin.witness_port)
    witness.say(question)
    assert json.loads(witness.hear())
