"""What every benchmark needs: a photograph, a peer in the same run, a printed line."""

import time

import numpy as np


def photograph(rows, cols):
    """Smooth tones, edges and grain."""
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    light = 127 + 80 * np.sin(x / 97) * np.cos(y / 61) + 18 * ((x // 40 + y // 40) % 2)
    light += np.random.default_rng(1).normal(0, 12, (rows, cols))
    return light.clip(0, 255).astype(np.uint8)


def paired(ours, theirs, rounds=9):
    """Median seconds of two functions run in turn, and the median of their ratios."""
    ours(), theirs()
    times = []
    for _ in range(rounds):
        pair = []
        for function in (ours, theirs):
            begun = time.perf_counter()
            function()
            pair.append(time.perf_counter() - begun)
        times.append(pair)
    one, two = np.median(times, axis=0)
    return one, two, float(np.median([a / b for a, b in times]))


def report(name, ours, ratio, peer):
    print(f"\n{name:44s} {1000 * ours:8.1f} ms   {ratio:5.2f} × {peer}")


def once(benchmark, function):
    benchmark.pedantic(function, rounds=3, warmup_rounds=1)
