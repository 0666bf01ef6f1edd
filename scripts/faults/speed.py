"""How quick the link is: a stop, lines, what a page is told; and how large it grows."""

import multiprocessing
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from shop import Shop

from workshop.controller.program import RowTable


def stop_latency(count: int) -> str:
    """Return how long a stop takes to reach the controller, beside a busy neighbour."""
    took = []
    busy = "import numpy as n\na = n.random.rand(700, 700)\nwhile True: a @ a"
    with tempfile.TemporaryDirectory() as folder:
        shop = Shop(Path(folder))
        neighbour = subprocess.Popen([sys.executable, "-c", busy])
        device, heard = shop.standin.controller.device, []
        receive = device.receive

        def noting(data: bytes) -> None:
            if b"!" in data:
                heard.append(time.perf_counter())
            receive(data)

        device.receive = noting  # type: ignore[method-assign]
        for at in range(count):
            heard.clear()
            shop.start(str(at))
            time.sleep(0.15)
            begun = time.perf_counter()
            shop.ask("stop", name=str(at))
            while not heard:
                time.sleep(0.0002)
            took.append(1000 * (heard[0] - begun))
            while shop.ask("state")["busy"]:
                time.sleep(0.01)
        neighbour.kill()
        neighbour.wait()
        shop.close()
    middle, most = np.median(took), np.percentile(took, 99)
    return (
        f"stop, from the request to the controller: median {middle:.1f} ms, "
        f"99 % within {most:.1f} ms ({count} stops, a neighbour computing)"
    )


def _answering(port: "multiprocessing.Queue[int]") -> None:
    """Be a controller that takes every line at once, behind a buffer of 128 bytes."""
    listener = socket.create_server(("127.0.0.1", 0))
    port.put(listener.getsockname()[1])
    while True:
        connection, _ = listener.accept()
        connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        with connection:
            connection.sendall(b"\r\nController ['$' for help]\r\n")
            while data := connection.recv(4096):
                said = b"ok\r\n" * data.count(b"\n")
                said += b"<Idle|MPos:0,0,0|Bf:15,128|FS:0,0>\r\n" * data.count(b"?")
                connection.sendall(said)


def long_job(dots: int) -> tuple[str, bool]:
    """Return how quickly and in how much memory the link sends a job of so many dots.

    A line a dot, over a socket, to a controller that never waits.
    """
    where: multiprocessing.Queue[int] = multiprocessing.Queue()
    controller = multiprocessing.Process(target=_answering, args=(where,), daemon=True)
    controller.start()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        shop = Shop(folder)
        shop.address = f"socket://127.0.0.1:{where.get()}"
        path, wide = folder / "long.gcode", 1000
        with path.open("w") as stream:
            stream.write("G21\nG90\nM4S0\nG1F30000\n")
            for row in range(dots // wide):
                stream.write(f"G0X0Y{row / 10:g}S0\nG1")
                stream.writelines(
                    f"X{dot / 10:g}S{500 * (dot % 2)}\n" for dot in range(wide)
                )
        begins = [4 + row * (wide + 1) for row in range(dots // wide)]
        seconds = [7200 * row / len(begins) for row in range(len(begins))]
        RowTable(begins, seconds, 7200.0).write(path.with_suffix(".rows"))
        begun = time.perf_counter()
        shop.ask("start", kind="burn", name="long", path=str(path))
        while shop.ask("program", name="long")["state"] == "running":
            time.sleep(0.05)
        took, size = time.perf_counter() - begun, path.stat().st_size
        state = shop.ask("program", name="long")["state"]
        status = Path(f"/proc/{shop.link.pid}/status").read_text()
        most = next(line for line in status.splitlines() if line.startswith("VmHWM"))
        mib = int(most.split()[1]) / 1024
        journal = path.with_suffix(".journal").stat().st_size / 1024
        shop.close()
    controller.terminate()
    return (
        f"{dots:,} dots, a line each ({size / 1e6:.0f} MB): {dots / took:,.0f} dots "
        f"a second over a socket, 128 bytes; the link had {mib:.0f} MiB at most, its "
        f"journal {journal:.0f} KiB; it ended {state}"
    ), state == "done"
