#!/usr/bin/env python3
"""Processor time of the bench's sampling, as a share of one core, beside an idle thread. Wanted: under 1 % at 4 Hz."""

import argparse
import resource
import tempfile
import time
from pathlib import Path

from nomothet.bench.sampling import Sampler, SystemSensors


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=20)
    arguments = parser.parse_args()
    for rate in (4.0, 10.0, 50.0):
        with tempfile.TemporaryDirectory() as folder:
            before = resource.getrusage(resource.RUSAGE_SELF)
            began = time.monotonic()
            sampler = Sampler([SystemSensors()], Path(folder) / "samples.jsonl", began, rate)
            sampler.start()
            time.sleep(arguments.seconds)
            sampler.stop()
            length = time.monotonic() - began
            after = resource.getrusage(resource.RUSAGE_SELF)
        whole = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
        print(
            f"{rate:4.0f} Hz: {sampler.samples} samples, thread {100 * sampler.cost_s / length:.3f} % of one core, "
            f"whole process {100 * whole / length:.3f} %"
        )


if __name__ == "__main__":
    main()
