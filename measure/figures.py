#!/usr/bin/env python3
"""Time of all figures of section 1 for a million frames, as a ratio to one numpy.sort of the same array.

Wanted: at most 10 on series as they come from games. Series whose spread is far wider are shown too.
"""

import time
from collections.abc import Callable

import numpy as np

from nomothet.core.frames import frame_figures

FRAMES = 1_000_000
REPEATS = 5


def best(work: Callable[[], object]) -> float:
    times = []
    for _ in range(REPEATS):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return min(times)


def series() -> dict[str, np.ndarray]:
    rng = np.random.default_rng(1)
    hitched = rng.normal(10, 0.5, FRAMES)
    hitched[rng.integers(0, FRAMES, 5000)] *= 4
    return {
        "5 % noise, 5,000 hitches": hitched,
        "the same at 800 fps": hitched / 8,
        "22 % spread (gamma)": rng.gamma(20, 0.5, FRAMES),
        "32 % spread (gamma)": rng.gamma(10, 1.0, FRAMES),
        "50 % spread (log-normal)": rng.lognormal(2.3, 0.5, FRAMES),
        "exponential": rng.exponential(10, FRAMES) + 0.01,
    }


def main() -> None:
    for name, frames in series().items():
        sort = best(lambda frames=frames: np.sort(frames))
        figures = best(lambda frames=frames: frame_figures(frames, target_fps=60))
        print(f"{name:<28} sort {1000 * sort:6.1f} ms   figures {1000 * figures:7.1f} ms   ratio {figures / sort:6.2f}")


if __name__ == "__main__":
    main()
