"""A packing suite: packs and unpacks made-up ledgers with three standard methods, on one thread and on all.

A score is the geometric mean of the methods' throughput, in megabytes of ledger packed and unpacked a second.
"""

import argparse
import bz2
import lzma
import math
import random
import sys
import time
import zlib
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from nomothet.bench.platforms import usable_processors

_LEDGER_BYTES = 400_000
_METHODS: dict[str, tuple[Callable[[bytes], bytes], Callable[[bytes], bytes]]] = {
    "deflate": (lambda data: zlib.compress(data, 6), zlib.decompress),
    "block sort": (lambda data: bz2.compress(data, 5), bz2.decompress),
    "dictionary": (lambda data: lzma.compress(data, preset=1), lzma.decompress),
}


def ledger(size: int = _LEDGER_BYTES, seed: int = 11) -> bytes:
    """Lines of a made-up stock ledger: partly regular, partly random, the same for a seed."""
    rng = random.Random(seed)
    goods = ["lamp", "rope", "lens", "crate", "cable", "dome", "hinge", "valve", "chart", "prism"]
    lines: list[str] = []
    length = 0
    while length < size:
        lines.append(f"{rng.randrange(10**6):06d};{rng.choice(goods)};{rng.randrange(500)};{rng.random():.4f}\n")
        length += len(lines[-1])
    return "".join(lines).encode()[:size]


def throughput(method: str, data: bytes, threads: int, seconds: float) -> float:
    """Megabytes packed and unpacked a second by so many threads at once.

    The standard library's packers let go of the interpreter's lock while they work, so threads run side by side.
    """
    pack, unpack = _METHODS[method]

    def work(_: int) -> int:
        done = 0
        while time.perf_counter() < end:
            if unpack(pack(data)) != data:
                raise RuntimeError(f"{method}: what was unpacked is not what was packed")
            done += len(data)
        return done

    begin = time.perf_counter()
    end = begin + seconds
    with ThreadPoolExecutor(threads) as pool:
        done = sum(pool.map(work, range(threads)))
    return done / 1e6 / (time.perf_counter() - begin)


def main() -> int:
    """Run all methods on one thread, then on all, and write the two scores."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=4, help="for each of the two scores")
    arguments = parser.parse_args()
    data = ledger()
    share = arguments.seconds / len(_METHODS)
    runs = (("one_thread", 1), ("all_threads", len(usable_processors())))
    left = arguments.seconds * len(runs)
    for name, threads in runs:
        logs = []
        for method in _METHODS:
            print(f"phase {method}, {threads} {'thread' if threads == 1 else 'threads'}", flush=True)
            print(f"left {left:.1f}", flush=True)
            value = throughput(method, data, threads, share)
            print(f"figure {name} {method} {value:.4f}", flush=True)
            logs.append(math.log(value))
            left -= share
        print(f"figure {name} {math.exp(sum(logs) / len(logs)):.4f}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
