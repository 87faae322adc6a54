"""Packing with 1, 2, 4 … threads, up to all that the process may use: the throughput at each."""

import argparse
import sys

from nomothet.bench.platforms import usable_processors
from nomothet.bench.workloads.parcel import ledger, throughput


def steps(most: int) -> list[int]:
    """1, 2, 4 … and the most.

    >>> steps(6)
    [1, 2, 4, 6]
    """
    found = [1]
    while found[-1] * 2 <= most:
        found.append(found[-1] * 2)
    return found if found[-1] == most else [*found, most]


def main() -> int:
    """Write one figure for each number of threads."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=2, help="for each number of threads")
    arguments = parser.parse_args()
    data = ledger()
    counts = steps(len(usable_processors()))
    for at, threads in enumerate(counts):
        print(f"phase {threads} {'thread' if threads == 1 else 'threads'}", flush=True)
        print(f"left {(len(counts) - at) * arguments.seconds:.1f}", flush=True)
        value = throughput("deflate", data, threads, arguments.seconds)
        print(f"figure threads_{threads} {value:.4f}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
