"""What an operating system counts of itself at a moment: processor times, memory, and bytes through drives and network.

Where a system has no reader of its own here, psutil tells it.
"""

import math
import sys
import time
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Protocol

import psutil


@dataclass(frozen=True)
class CoreTimes:
    """What a core has spent since the start of the system, in seconds: at work, and altogether."""

    busy_s: float
    whole_s: float

    def use(self, before: "CoreTimes") -> float:
        """The share of the time since then that it was at work, in %; NaN where the system has counted none."""
        passed = self.whole_s - before.whole_s
        return min(100.0, max(0.0, 100 * (self.busy_s - before.busy_s) / passed)) if passed > 0 else math.nan


@dataclass(frozen=True)
class Counted:
    """A moment on the clock of `time.monotonic()`; bytes where nothing else is said.

    `waited_s` is what all cores together have waited for storage, `faults` are major page faults; None where a system
    does not tell them. A core that is away is not among `cores`.
    """

    at_s: float
    cores: Mapping[int, CoreTimes]
    waited_s: float | None
    memory: int
    available: int
    swap: int
    swap_used: int
    read: int
    written: int
    received: int
    sent: int
    faults: int | None


class Counters(Protocol):
    """Where they are read."""

    source: str

    def count(self) -> Counted: ...

    def clock_mhz(self) -> float | None:
        """The mean of all cores; None where the system does not tell it."""


class PsutilCounters:
    """Counters as psutil tells them on every system."""

    source = "psutil"

    def count(self) -> Counted:
        # A counter that begins anew shows by a rate below 0, which is none; psutil need not mend it.
        disk = psutil.disk_io_counters(nowrap=False)
        network = [one for name, one in psutil.net_io_counters(pernic=True, nowrap=False).items() if name != "lo"]
        memory, swap = psutil.virtual_memory(), psutil.swap_memory()
        return Counted(
            at_s=time.monotonic(),
            cores=dict(enumerate(map(_core_times, psutil.cpu_times(percpu=True)))),
            waited_s=getattr(psutil.cpu_times(), "iowait", None),
            memory=memory.total,
            available=memory.available,
            swap=swap.total,
            swap_used=swap.used,
            read=disk.read_bytes if disk else 0,
            written=disk.write_bytes if disk else 0,
            received=sum(one.bytes_recv for one in network),
            sent=sum(one.bytes_sent for one in network),
            faults=None,
        )

    def clock_mhz(self) -> float | None:
        return clock_mhz()


def _core_times(told: object) -> CoreTimes:
    times: dict[str, float] = told._asdict()  # type: ignore[attr-defined]
    # A guest's time stands in that of its user as well.
    whole = sum(times.values()) - times.get("guest", 0.0) - times.get("guest_nice", 0.0)
    return CoreTimes(whole - times["idle"] - times.get("iowait", 0.0), whole)


def clock_mhz() -> float | None:
    """What psutil tells of the cores' clock."""
    try:
        clock = psutil.cpu_freq()
    except (OSError, NotImplementedError, AttributeError):
        return None
    return clock.current if clock else None


def counters() -> Counters:
    """Those that cost least on this system."""
    if sys.platform == "linux":
        from nomothet.bench.linux_counters import LinuxCounters

        if LinuxCounters.can_read():
            return LinuxCounters()
    return PsutilCounters()
