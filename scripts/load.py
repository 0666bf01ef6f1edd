"""Many people at once for a minute: how long each answer takes, by what was asked for.

``make load`` runs the demo's programs and ``SESSIONS`` people (30) for ``SECONDS`` (60),
each on one of the demo's tickets or a ticket of their own, with a second's thought between
two acts: rack, ticket, station, a slider looked at, a change written.
"""

import os
import random
import re
import sys
import tempfile
import threading
import time
from collections import defaultdict
from pathlib import Path

import numpy as np

HERE = Path(__file__).resolve()
sys.path[:0] = [str(HERE.parents[1] / "tests"), str(HERE.parent / "faults")]

from visitor import Visitor  # noqa: E402

from support.jobs import png  # noqa: E402
from support.running import fill, running_workshop  # noqa: E402
from support.timing import photograph  # noqa: E402

SESSIONS = int(os.environ.get("SESSIONS", "30"))
SECONDS = float(os.environ.get("SECONDS", "60"))
STATIONS = ("artwork", "blank", "tone", "dots", "burn", "outlines", "place", "check")
THOUGHT_S = 1.0
SIDE = 1000
GOOD = (200, 204)


class Person(threading.Thread):
    """Somebody at work; notes how long each answer took."""

    def __init__(self, address: str, at: int) -> None:
        super().__init__(daemon=True)
        self.times: dict[str, list[float]] = defaultdict(list)
        self.wrong: list[str] = []
        self._visitor = Visitor(address)
        self._dice = random.Random(at)  # noqa: S311 (no secret)
        self._at = at
        self.until = 0.0
        self._job = 0

    def prepare(self) -> None:
        """Open a ticket of one's own, of a million dots or so."""
        self._visitor.get("/shelf/recipes/import/")
        data = png(photograph(SIDE, SIDE)) + str(self._at).encode()
        self._visitor.upload(f"of{self._at}.png", data)
        found = re.findall(r'href="/jobs/(\d+)/', self._visitor.get("/"))
        self._job = max(int(one) for one in found)

    def run(self) -> None:
        """Do one thing after another until the time is over."""
        acts = (
            self._rack,
            self._ticket,
            self._station,
            self._look,
            self._look,
            self._write,
        )
        while time.monotonic() < self.until:
            act = self._dice.choice(acts)
            begun = time.perf_counter()
            status = act()
            self.times[act.__name__.strip("_")].append(time.perf_counter() - begun)
            if status not in GOOD:
                self.wrong.append(f"{act.__name__} {status}")
            time.sleep(THOUGHT_S * self._dice.uniform(0.5, 1.5))

    def _rack(self) -> int:
        return self._visitor.looks("/")

    def _ticket(self) -> int:
        return self._visitor.looks(f"/jobs/{self._job}/")

    def _station(self) -> int:
        return self._visitor.looks(f"/jobs/{self._job}/{self._dice.choice(STATIONS)}/")

    def _look(self) -> int:
        where = "view=proof&left=0&top=0&cols=1000&rows=1000&w=500&h=500"
        words = {"brightness": str(self._dice.randint(-40, 40)), "changed": "brightness"}
        return self._visitor.post(f"/jobs/{self._job}/look/tone/?{where}", **words)

    def _write(self) -> int:
        value = str(self._dice.randint(-40, 40))
        return self._visitor.post(f"/jobs/{self._job}/tone/", brightness=value)


def main() -> int:
    """Print the figures; return 1 where an answer was none."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "var"
        fill(folder)
        with running_workshop(folder) as running:
            people = [Person(running.address, at) for at in range(SESSIONS)]
            for one in people:
                one.prepare()
            until = time.monotonic() + SECONDS
            for one in people:
                one.until = until
                one.start()
            for one in people:
                one.join()
    return _told(people)


def _told(people: list[Person]) -> int:
    print(f"{SESSIONS} people, {SECONDS:.0f} s, load {os.getloadavg()[0]:.1f}")
    for act in sorted({name for one in people for name in one.times}):
        took = np.sort(
            np.concatenate([one.times[act] for one in people if act in one.times])
        )
        high = took[int(0.95 * len(took))]
        print(
            f"{act:10s} {len(took):5d} answers, median {1000 * np.median(took):5.0f} ms, "
            f"95 % {1000 * high:5.0f} ms, longest {1000 * took[-1]:5.0f} ms"
        )
    wrong = [said for one in people for said in one.wrong]
    print(f"{len(wrong)} answers were none{': ' if wrong else ''}{', '.join(wrong[:5])}")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
