"""What the closed loop of the swatch cards comes out at. Printed, never asserted here."""

import pytest

from engraving.cards import flatten, lay_out, measure, starting_card
from support.cards import HIDDEN, card_spec, material, seen
from support.loop import MACHINE, best_off, focus_off, second_ramp_off, shifts_off
from support.timing import once, paired


@pytest.mark.parametrize("name", HIDDEN)
def test_the_loop(benchmark, name):
    def loop():
        return second_ramp_off(name), shifts_off(name), best_off(name), focus_off(name)

    ramp, shift, best, (spot, focus) = benchmark.pedantic(loop, rounds=1)
    print(
        f"\n{name}: second ramp {ramp:.2f} L* RMS; return rows {shift:.4f} mm; "
        f"spot {100 * spot:.1f} %; focus {focus:.3f} mm; best cell {best:.2f} cells off"
    )


def test_reading_a_photo(benchmark):
    told, surface = material("soft wood")
    spec = card_spec(told, starting_card("power-speed", MACHINE))
    photo, _ = seen(spec, surface)
    read = lambda: measure(spec, flatten(photo, lay_out(spec)))  # noqa: E731
    mine, _, _ = paired(read, photo.copy)
    high, wide, _ = photo.shape
    print(
        f"\na photo of {wide} x {high} found, squared and measured in {1000 * mine:.0f} ms"
    )
    once(benchmark, read)
