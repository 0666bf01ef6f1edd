"""The demo's machines; made up, as everything of it."""

from django.conf import settings

from workshop.shelf.machines.changes import put_machine
from workshop.shelf.models import Machine
from workshop.shelf.starting.recipes import REFERENCES


def _second_standin() -> str:
    """Return where a second simulated machine is reached, empty where there is none."""
    more = settings.MORE_STANDINS
    return f"socket://127.0.0.1:{more[0][0]}" if more else ""


def put_machines() -> tuple[Machine, Machine, Machine]:
    """Put the machines on the shelf; return the beams: a tube, a diode, a fibre one."""
    north = put_machine(
        "North bench", "A 60 W tube on a moving gantry.", **REFERENCES["co2"]
    )
    window = put_machine(
        "Window bench", "A small diode head; its zero is at the back left.",
        link=_second_standin(), **REFERENCES["diode"],
    )  # fmt: skip
    yard = put_machine(
        "Yard bench", "A fibre beam for metal; it marks black at low speed.",
        **REFERENCES["fibre"],
    )  # fmt: skip
    put_machine(
        "Mill bench", "A spindle with V-tools; touch the tool off on each board.",
        kind="vtool", bed_width_mm=600, bed_height_mm=400, max_speed_mm_s=50,
        rapid_mm_s=60, acceleration_mm_s2=300, spot_mm=0.3, lift_mm=3, z_axis=True,
        max_speed_z_mm_s=15, look_ahead=120,
    )  # fmt: skip
    put_machine(
        "Needle bench", "A diamond under a spring: no beam, no spindle.",
        kind="drag", bed_width_mm=200, bed_height_mm=150, max_speed_mm_s=60,
        rapid_mm_s=80, acceleration_mm_s2=600, spot_mm=0.15, lift_mm=1, depth_mm=0.15,
        z_axis=True, max_speed_z_mm_s=20,
    )  # fmt: skip
    return north, window, yard
