"""A soak: all processors at work for so long, each result checked; idle, burst, sustained work, recovery.

A frame is one round of work over all processors, so that the work rate stands in the frame series.
"""

import argparse
import hashlib
import sys
import time
from concurrent.futures import ThreadPoolExecutor

from nomothet.bench.platforms import usable_processors

_BLOCK = bytes(range(256)) * 8192
_IDLE_SHARE = 0.05
# The first part of the work, while the machine is still cool.
_BURST_SHARE = 0.1


def piece(_: int) -> str:
    """A piece of work with a known result; hashing lets go of the interpreter's lock."""
    return hashlib.sha256(_BLOCK).hexdigest()


def main() -> int:
    """Work for the asked time; write the rate, and how many results were wrong."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=60)
    arguments = parser.parse_args()
    threads = len(usable_processors())
    right = piece(0)
    pieces = threads * 4
    idle = arguments.seconds * _IDLE_SHARE
    errors = rounds = 0
    print("phase idle", flush=True)
    print(f"left {arguments.seconds:.1f}", flush=True)
    time.sleep(idle)
    print("phase burst", flush=True)
    begin = before = time.perf_counter()
    end = begin + arguments.seconds - 2 * idle
    burst_ends, bursting = begin + arguments.seconds * _BURST_SHARE, True
    with ThreadPoolExecutor(threads) as pool:
        while before < end:
            errors += sum(result != right for result in pool.map(piece, range(pieces)))
            now = time.perf_counter()
            print(f"frame {1000 * (now - before):.4f}")
            before = now
            rounds += 1
            if bursting and now >= burst_ends:
                bursting = False
                print("phase sustained", flush=True)
            if rounds % 10 == 0:
                print(f"left {max(0.0, end + idle - now):.1f}", flush=True)
    print("phase recovery", flush=True)
    print(f"figure work_rate {rounds * pieces * len(_BLOCK) / (before - begin) / 1e6:.3f}", flush=True)
    print(f"figure errors {errors}", flush=True)
    time.sleep(idle)
    return 0


if __name__ == "__main__":
    sys.exit(main())
