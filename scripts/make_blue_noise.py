"""Make the blue-noise mask that the dot methods ship.

Run as ``python scripts/make_blue_noise.py``.
Void-and-cluster: Ulichney 1993, "The void-and-cluster method for dither array
generation", Proc. SPIE 1913:332-343, with a Gaussian of 1.5 dots on a torus.
"""

import sys
from pathlib import Path

import numpy as np

SIDE = 128
SIGMA = 1.5
SEED = 1993
TARGET = Path(__file__).resolve().parents[1] / "src/engraving/dots/blue_noise_128.npy"


def void_and_cluster(side: int, sigma: float, generator: np.random.Generator) -> np.ndarray:
    """Return ranks 0 … side²-1, shape (side, side), seamless when repeated."""
    around = np.minimum(np.arange(side), side - np.arange(side))
    bell = np.exp(-(around**2) / (2 * sigma**2))
    field = np.outer(bell, bell)

    def energy_at(spot: int) -> np.ndarray:
        return np.roll(field, divmod(spot, side), (0, 1)).ravel()

    count = side * side // 10
    on = np.zeros(side * side, bool)
    on[generator.choice(side * side, count, replace=False)] = True
    energy = sum((energy_at(spot) for spot in np.flatnonzero(on)), np.zeros(side * side))

    def tightest() -> int:
        return int(np.argmax(np.where(on, energy, -np.inf)))

    def emptiest() -> int:
        return int(np.argmin(np.where(on, np.inf, energy)))

    # Move the most crowded dot into the widest gap until it would move back.
    while True:
        crowded = tightest()
        on[crowded] = False
        energy -= energy_at(crowded)
        gap = emptiest()
        on[gap] = True
        energy += energy_at(gap)
        if gap == crowded:
            break

    rank = np.zeros(side * side, np.int64)
    seeded, seeded_energy = on.copy(), energy.copy()
    for value in range(count - 1, -1, -1):
        crowded = tightest()
        on[crowded] = False
        energy -= energy_at(crowded)
        rank[crowded] = value
    on, energy = seeded, seeded_energy
    # With a Gaussian, the widest gap among few and the tightest cluster of the
    # gaps among many are the same spot, so one rule fills the rest.
    for value in range(count, side * side):
        gap = emptiest()
        on[gap] = True
        energy += energy_at(gap)
        rank[gap] = value
    return rank.reshape(side, side)


def main() -> int:
    """Write the mask."""
    ranks = void_and_cluster(SIDE, SIGMA, np.random.default_rng(SEED))
    np.save(TARGET, ranks.astype(np.uint16))
    print(f"{TARGET.name}: {ranks.size} ranks")
    return 0


if __name__ == "__main__":
    sys.exit(main())
