"""Sensors of the workload's own processes."""

import math
import sys
import time

from nomothet.bench.families import Family, LinuxFamily, PsutilFamily
from nomothet.bench.sampling import Sensor

_GIB = 1024**3


class ProcessSensors:
    """What the workload's own processes use."""

    def __init__(self, pid: int) -> None:
        self._family: Family = LinuxFamily(pid) if sys.platform == "linux" else PsutilFamily(pid)
        self.sensors = [
            Sensor("workload processor use", "%", "its processes, 100 % is one core", self._family.source),
            Sensor("workload memory", "GiB", "its processes", self._family.source),
        ]
        self._look_at = self._read_at = -math.inf
        self._spent: dict[int, float] = {}
        self.read()

    def read(self) -> list[float]:
        """What those used that were there at the last reading too, and what all hold; NaN when none is left."""
        now = time.monotonic()
        if now >= self._look_at:
            self._family.look()
            self._look_at = now + self._family.look_s
        spent, memory = self._family.spent()
        step, before = now - self._read_at, self._spent
        self._read_at, self._spent = now, spent
        if not spent:
            return [math.nan, math.nan]
        used = sum(max(0.0, own - before[pid]) for pid, own in spent.items() if pid in before)
        return [100 * used / step if step > 0 else math.nan, memory / _GIB]
