"""Counters as Linux tells them, read at a fraction of what psutil takes.

A bench reads them ten times a second beside what it measures. For what stands in the files of /proc: proc(5).
"""

import os
import re
import time
from pathlib import Path

from nomothet.bench.counters import CoreTimes, Counted, clock_mhz
from nomothet.bench.held_files import content
from nomothet.bench.platforms import TICKS_PER_S

_SECTOR_BYTES = 512
_FAULTS = re.compile(rb"^pgmajfault (\d+)$", re.MULTILINE)
_MHZ = re.compile(rb"^cpu MHz\s*: ([\d.]+)$", re.MULTILINE)
_MEMORY = re.compile(rb"^(MemTotal|MemAvailable|SwapTotal|SwapFree): +(\d+) kB$", re.MULTILINE)
_WANTED = {b"MemTotal", b"MemAvailable", b"SwapTotal", b"SwapFree"}


class LinuxCounters:
    """Counters of the whole system.

    Parameters
    ----------
    proc, devices : Path
        Where the system's own file systems are.
    """

    source = "/proc"

    def __init__(self, proc: Path = Path("/proc"), devices: Path = Path("/sys")) -> None:
        self._proc, self._devices = os.fspath(proc), devices
        self._drives: dict[bytes, bool] = {}
        self._clocks = [os.fspath(path) for path in devices.glob("devices/system/cpu/cpufreq/policy*/scaling_cur_freq")]

    @classmethod
    def can_read(cls, proc: Path = Path("/proc")) -> bool:
        """Whether the system tells all of it; an old or a narrowed one does not."""
        try:
            cls(proc).count()
        except (OSError, LookupError, ValueError):
            return False
        return True

    def count(self) -> Counted:
        """All of it now.

        Raises
        ------
        OSError, LookupError, ValueError
            When a file cannot be read or does not hold what it should.
        """
        cores, waited_s = self._processors()
        memory = self._memory()
        read, written = self._disks()
        received, sent = self._network()
        return Counted(
            at_s=time.monotonic(),
            cores=cores,
            waited_s=waited_s,
            memory=memory[b"MemTotal"],
            available=memory[b"MemAvailable"],
            swap=memory[b"SwapTotal"],
            swap_used=memory[b"SwapTotal"] - memory[b"SwapFree"],
            read=read,
            written=written,
            received=received,
            sent=sent,
            faults=self._faults(),
        )

    def clock_mhz(self) -> float | None:
        """The mean of all cores, as their drivers tell it, else as the processor itself does."""
        try:
            if self._clocks:
                told = [int(content(path)) / 1000 for path in self._clocks]
            else:
                told = [float(one) for one in _MHZ.findall(content(f"{self._proc}/cpuinfo"))]
        except (OSError, ValueError):
            told = []
        return sum(told) / len(told) if told else clock_mhz()

    def _processors(self) -> tuple[dict[int, CoreTimes], float]:
        cores: dict[int, CoreTimes] = {}
        waited_s = 0.0
        # A long line about interrupts comes after the cores.
        told = content(f"{self._proc}/stat").partition(b"\nintr")[0]
        for line in told.splitlines():
            name, *ticks = line.split(maxsplit=9)
            times = [int(one) / TICKS_PER_S for one in ticks[:8]]
            # user, nice, system, idle, iowait, irq, softirq, steal; what guests use stands in the first two as well.
            idle, waiting = times[3], times[4]
            if name == b"cpu":
                waited_s = waiting
            else:
                whole = sum(times)
                cores[int(name[3:])] = CoreTimes(whole - idle - waiting, whole)
        return cores, waited_s

    def _memory(self) -> dict[bytes, int]:
        found = {name: 1024 * int(kib) for name, kib in _MEMORY.findall(content(f"{self._proc}/meminfo"))}
        if missing := _WANTED - found.keys():
            raise LookupError(f"/proc/meminfo does not tell {missing}")
        return found

    def _disks(self) -> tuple[int, int]:
        """Bytes read and written by whole drives; their partitions would count twice."""
        read = written = 0
        for line in content(f"{self._proc}/diskstats").splitlines():
            told = line.split(maxsplit=10)
            if self._is_drive(told[2]):
                read += int(told[5])
                written += int(told[9])
        return _SECTOR_BYTES * read, _SECTOR_BYTES * written

    def _is_drive(self, name: bytes) -> bool:
        if name not in self._drives:
            self._drives[name] = (self._devices / "block" / os.fsdecode(name).replace("/", "!")).exists()
        return self._drives[name]

    def _network(self) -> tuple[int, int]:
        received = sent = 0
        # The first two lines are a header.
        for line in content(f"{self._proc}/net/dev").splitlines()[2:]:
            name, _, told = line.rpartition(b":")
            if name.strip() != b"lo":
                counted = told.split()
                received += int(counted[0])
                sent += int(counted[8])
        return received, sent

    def _faults(self) -> int | None:
        found = _FAULTS.search(content(f"{self._proc}/vmstat"))
        return int(found[1]) if found else None
