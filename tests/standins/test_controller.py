"""The stand-in controller by itself: words, faults, protocol."""

import json
import socket

import numpy as np
import pytest

from standins.controller import Machine, Settings
from standins.controller.interpreter import FaultError, Interpreter
from standins.controller.server import GREETING, StandIn


@pytest.mark.parametrize(
    ("line", "code"),
    [("hello", 1), ("G1 X1e-5", 1), ("G2 X1", 2), ("M6", 3), ("G1 X5", 4), ("G0 G1 X1", 5),
     ("S-1", 6), ("; " + "x" * 90, 7), ("X", 1)],
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


def test_the_line_protocol(standin, connect):
    client = connect(standin.port)
    assert client.hear() == GREETING
    client.say(b"G21\nG1 X5 F600\nnonsense\n")
    assert [client.hear() for _ in range(3)] == ["ok", "ok", "error:1"]
    client.say(b"?")
    assert client.hear().startswith("<")
    client.say(b"\x18")
    assert client.hear() == GREETING


def test_hold_and_resume(standin, connect):
    client = connect(standin.port)
    client.hear()
    client.say(b"!G1 X100 F6000\nM2\n")
    assert [client.hear(), client.hear()] == ["ok", "ok"]
    client.say(b"?")
    assert client.hear().startswith("<held x=0.000")
    client.say(b"~")
    for _ in range(200):
        client.say(b"?")
        if client.hear().startswith("<idle x=100.000"):
            return
    pytest.fail("it did not arrive")


def test_m0_waits_and_single_bytes_act_while_lines_wait(standin, connect):
    client = connect(standin.port)
    client.hear()
    client.say(b"G1 X10 F6000\nM0\n" + b"G1 X20\nG1 X10\n" * 9000 + b"G1 X30\nM2\n")

    def until(word):
        for _ in range(20000):
            client.say(b"?")
            while not (line := client.hear()).startswith("<"):
                pass
            if line.startswith(word):
                return line
        return pytest.fail(f"never {word}")

    assert until("<held x=10.000")  # 18 000 lines are more than the queue takes
    client.say(b"~")
    assert until("<idle x=30.000")


def test_the_witness_tells_where_the_energy_went(standin, connect):
    client = connect(standin.port)
    client.hear()
    client.say(b"M3 S1000\nG1 X10 F6000 S0\nX12 S1000\nX20 S0\nM5\nM2\n")
    for _ in range(6):
        assert client.hear() == "ok"
    while "idle x=20" not in (client.say(b"?") or client.hear()):
        pass
    witness = connect(standin.witness_port)
    question = {"map": {"left": 8, "front": -0.5, "cell": [1, 1], "rows": 1, "cols": 6}}
    witness.say(json.dumps(question).encode() + b"\n")
    assert json.loads(witness.hear())["cols"] == 6
    energy = np.frombuffer(witness.file.read(), "<f4")
    assert energy == pytest.approx([0, 0, 0.01, 0.01, 0, 0], abs=1e-5)


@pytest.mark.parametrize("question", [b"hello\n", b"{}\n", b'{"map": {}}\n', b"[]\n"])
def test_the_witness_survives_nonsense(standin, connect, question):
    witness = connect(standin.witness_port)
    witness.say(question)
    assert json.loads(witness.hear())
