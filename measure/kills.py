#!/usr/bin/env python3
"""Parts of an installation are killed at random while passes run and people write. Wanted, of 300 kills: nothing lost,
nothing doubled, and the installation well again within 15 s by itself.

The launcher runs database, server processes and worker; it is killed too, and started again as a service manager would.
A bench runs passes; somebody writes comments all the while. At the end every pass that was owed is in once and whole,
or as interrupted with its reason, every comment that was answered for is there once, and no spool holds anything.
"""

import argparse
import os
import random
import signal
import sys
import time
from collections import Counter, defaultdict

from whole import Whole, whole_installation

BACK_S = 15.0
_GIVEN_UP_S = 120.0
_PARTS = {
    "server": "nomothet server",
    "worker": "nomothet worker",
    "database": "mariadbd",
    "bench": "nomothet.cli.main bench",
    "launcher": "nomothet.server.launch --",
}


def kill(whole: Whole, part: str) -> float | None:
    """Kill one process of a part, and wait until all is well; gives how long that took, None where there is none."""
    pids = whole.pids(_PARTS[part])
    if not pids:
        return None
    killed = random.choice(pids)
    os.kill(killed, signal.SIGKILL)
    began = time.monotonic()
    while len(set(whole.pids(_PARTS[part])) - {killed}) < len(pids) and time.monotonic() - began < _GIVEN_UP_S:
        time.sleep(0.05)
    whole.wait_until_well()
    return time.monotonic() - began


def main() -> int:
    """Kill, wait, and look at what is there; the status is 1 when something is not as wanted."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=300)
    parser.add_argument("--seed", type=int, default=20261)
    parser.add_argument("--only", choices=list(_PARTS), action="append", help="kill these alone")
    arguments = parser.parse_args()
    random.seed(arguments.seed)
    owed = 20 * max(1, arguments.kills // 20)
    back_s: dict[str, list[float]] = defaultdict(list)
    with whole_installation(owed) as whole:
        while sum(map(len, back_s.values())) < arguments.kills:
            time.sleep(random.uniform(0.1, 1.5))
            part = random.choice(arguments.only or list(_PARTS))
            took_s = kill(whole, part)
            if took_s is not None:
                back_s[part].append(took_s)
                print(f"{sum(map(len, back_s.values())):>4} {part:<9} {took_s:5.1f} s", flush=True)
        whole.read.set()
        wrong = whole.settle(owed)
    counted = Counter({part: len(times) for part, times in back_s.items()})
    print(f"{counted.total()} kills: {', '.join(f'{part} {count}' for part, count in sorted(counted.items()))}")
    for part, times in sorted(back_s.items()):
        median = sorted(times)[len(times) // 2]
        print(f"  well again after a kill of the {part:<9} {median:5.1f} s, {max(times):5.1f} s at most")
    for what, count in wrong.items():
        print(f"  {count:>4} {what}")
    late = sum(one > BACK_S for times in back_s.values() for one in times)
    print(f"  {late:>4} times not well within {BACK_S:.0f} s")
    return 1 if late or any(wrong.values()) else 0


if __name__ == "__main__":
    sys.exit(main())
