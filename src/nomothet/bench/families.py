"""A process with all that descend from it, and what each of them has used."""

import os
from typing import Protocol

import psutil

from nomothet.bench.platforms import PAGE_BYTES, TICKS_PER_S

# More than a line of numbers has.
_STAT_BYTES = 4096


class Family(Protocol):
    """How often to look for those who came is told by `look_s`."""

    source: str
    look_s: float

    def look(self) -> None:
        """Take in who has come since the last look."""

    def spent(self) -> tuple[dict[int, float], int]:
        """Processor seconds of those who live, by process, and bytes that they hold in memory together."""


class PsutilFamily:
    """A family as psutil tells it on every system; a look reads what there is of all processes."""

    source = "psutil"
    look_s = 2.0

    def __init__(self, pid: int) -> None:
        self._pid = pid
        self._members: list[psutil.Process] = []

    def look(self) -> None:
        try:
            process = psutil.Process(self._pid)
            self._members = [process, *process.children(recursive=True)]
        except psutil.Error:
            self._members = []

    def spent(self) -> tuple[dict[int, float], int]:
        spent, memory = {}, 0
        for one in self._members:
            try:
                with one.oneshot():
                    used, held = sum(one.cpu_times()[:2]), one.memory_info().rss
            except psutil.Error:
                continue
            spent[one.pid] = used
            memory += held
        return spent, memory


class LinuxFamily:
    """A family read from /proc, at a fraction of what psutil takes; for what stands there: proc(5).

    A process is asked once for its parent, when it is first seen; so those whose parent ended stay in the family.
    """

    source = "/proc"
    look_s = 0.5

    def __init__(self, pid: int) -> None:
        self._members = {pid}
        self._parents: dict[int, int] = {}

    def look(self) -> None:
        there = {int(name) for name in os.listdir("/proc") if name.isdecimal()}
        self._members &= there
        self._parents = {pid: self._parents[pid] if pid in self._parents else _parent(pid) for pid in there}
        while come := {pid for pid, parent in self._parents.items() if parent in self._members} - self._members:
            self._members |= come

    def spent(self) -> tuple[dict[int, float], int]:
        spent, pages = {}, 0
        for pid in self._members:
            if told := _stat(pid):
                spent[pid] = (int(told[11]) + int(told[12])) / TICKS_PER_S
                pages += int(told[21])
        return spent, pages * PAGE_BYTES


def _parent(pid: int) -> int:
    told = _stat(pid)
    return int(told[1]) if told else 0


def _stat(pid: int) -> list[bytes]:
    """What /proc/PID/stat tells behind the name, which may hold anything; nothing when the process is gone."""
    try:
        file = os.open(f"/proc/{pid}/stat", os.O_RDONLY)
    except OSError:
        return []
    try:
        return os.read(file, _STAT_BYTES).rpartition(b")")[2].split()
    except OSError:
        return []
    finally:
        os.close(file)
