#!/usr/bin/env python3
"""Processor time of the bench's sampling, as a share of one core, with the system's sensors and those of a workload of
a few idle processes. Wanted: at most 0.5 % at 10 Hz.
"""

import argparse
import os
import resource
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from nomothet.bench.process_sensors import ProcessSensors
from nomothet.bench.sampling import Sampler
from nomothet.bench.system_sensors import SystemSensors

WANTED = 0.005
_CHILD = "import time; time.sleep(3600)"
_WORKLOAD = f"""
import subprocess, sys
children = [subprocess.Popen([sys.executable, "-c", {_CHILD!r}]) for _ in range(3)]
print("ready", flush=True)
children[0].wait()
"""


@contextmanager
def workload() -> Iterator[int]:
    """A process with three children, none of which does anything; its number."""
    with subprocess.Popen([sys.executable, "-c", _WORKLOAD], stdout=subprocess.PIPE, start_new_session=True) as process:
        assert process.stdout is not None
        process.stdout.readline()
        try:
            yield process.pid
        finally:
            os.killpg(process.pid, signal.SIGKILL)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=20)
    arguments = parser.parse_args()
    at_10 = 0.0
    for rate in (4.0, 10.0, 50.0):
        with tempfile.TemporaryDirectory() as folder, workload() as pid:
            before = resource.getrusage(resource.RUSAGE_SELF)
            began = time.monotonic()
            sampler = Sampler([SystemSensors(), ProcessSensors(pid)], Path(folder) / "samples.jsonl", began, rate)
            sampler.start()
            time.sleep(arguments.seconds)
            sampler.stop()
            length = time.monotonic() - began
            after = resource.getrusage(resource.RUSAGE_SELF)
        whole = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
        if rate == 10:
            at_10 = whole / length
        print(
            f"{rate:4.0f} Hz: {sampler.samples} samples, thread {100 * sampler.cost_s / length:.3f} % of one core, "
            f"whole process {100 * whole / length:.3f} %"
        )
    print(f"{len(os.listdir('/proc'))} entries in the list of processes")
    return int(at_10 > WANTED)


if __name__ == "__main__":
    sys.exit(main())
