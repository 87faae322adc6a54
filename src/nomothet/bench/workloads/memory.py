"""Memory: reading, writing and copying over working sets of growing size, and random accesses, many at once.

Rates are of bytes that the program asked for, best of several rounds; a random access is one of many that the processor
may have under way together, so it is a cost per access and not a latency.
"""

import argparse
import sys
import time
from collections.abc import Callable

import numpy as np

_SIZES_KB = (32, 256, 2048, 16_384, 65_536)


def rate_gbs(work: Callable[[], object], size: int, seconds: float) -> float:
    """Best rate in GB/s (10⁹ bytes) of a piece of work that touches `size` bytes."""
    best = 0.0
    repeats = max(1, (8 << 20) // size)
    end = time.perf_counter() + seconds
    while True:
        begin = time.perf_counter()
        for _ in range(repeats):
            work()
        took = time.perf_counter() - begin
        best = max(best, repeats * size / took / 1e9)
        if time.perf_counter() >= end:
            return best


def access_ns(size: int, seconds: float) -> float:
    """Best time for one random access among many, in ns."""
    count = size // 8
    order = np.random.default_rng(5).permutation(count)
    values = np.arange(count, dtype=np.int64)
    out = np.empty_like(values)
    best = float("inf")
    end = time.perf_counter() + seconds
    while True:
        begin = time.perf_counter()
        np.take(values, order, out=out)
        best = min(best, (time.perf_counter() - begin) / count * 1e9)
        if time.perf_counter() >= end:
            return best


def main() -> int:
    """Go through the sizes and write one figure for each kind of access."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=6, help="for everything")
    arguments = parser.parse_args()
    share = arguments.seconds / (len(_SIZES_KB) * 4)
    left = arguments.seconds
    for size_kb in _SIZES_KB:
        size = size_kb * 1024
        source = np.ones(size // 8)
        target = np.empty_like(source)
        kinds: dict[str, Callable[[], object]] = {
            "read": source.sum,
            "write": lambda target=target: target.fill(2.0),  # type: ignore[misc]
            "copy": lambda target=target, source=source: np.copyto(target, source),  # type: ignore[misc]
        }
        for kind, work in kinds.items():
            print(f"phase {kind} {size_kb} KiB", flush=True)
            print(f"left {left:.1f}", flush=True)
            touched = size * (2 if kind == "copy" else 1)
            print(f"figure {kind}_{size_kb}k {rate_gbs(work, touched, share):.3f}", flush=True)
            left -= share
        print(f"phase random access {size_kb} KiB", flush=True)
        print(f"figure random_{size_kb}k {access_ns(size, share):.3f}", flush=True)
        left -= share
    return 0


if __name__ == "__main__":
    sys.exit(main())
