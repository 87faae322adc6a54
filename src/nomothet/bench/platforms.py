"""The seam to the operating system: what only some systems have, with what serves on the others.

The rest of the bench keeps to what Python and psutil offer everywhere. Only Linux has been run; for the others the
types are checked, and what they lack is left out.
"""

import ctypes
import os
import signal
import subprocess
import sys
from collections.abc import Callable, Sequence

import psutil

# prctl(2).
_PR_SET_DUMPABLE = 4
# Whether programs can write frame times into named pipes and sockets of the local system.
HAS_PIPES = sys.platform != "win32"

# In what a system counts processor times and memory of processes; Windows counts otherwise, and is not asked so.
if sys.platform == "win32":
    TICKS_PER_S, PAGE_BYTES = 100, 4096
else:
    TICKS_PER_S, PAGE_BYTES = os.sysconf("SC_CLK_TCK"), os.sysconf("SC_PAGE_SIZE")


def usable_processors() -> list[int]:
    """Logical processors that this process may run on; all of them where a system does not say."""
    if sys.platform == "linux":
        return sorted(os.sched_getaffinity(0))
    return list(range(os.cpu_count() or 1))


def bound(processors: Sequence[int], nice: int) -> Callable[[], None] | None:
    """What a new process does to itself before it runs a program; None where a system has no such moment."""
    if sys.platform == "win32":
        return None

    def bind() -> None:
        if sys.platform == "linux":
            os.sched_setaffinity(0, processors)
        if nice:
            os.nice(nice)

    return bind


def bind_started(pid: int, processors: Sequence[int], nice: int) -> None:
    """Bind a process that runs already, where it could not do so itself."""
    if sys.platform == "win32":
        process = psutil.Process(pid)
        process.cpu_affinity(list(processors))
        if nice:
            process.nice(psutil.BELOW_NORMAL_PRIORITY_CLASS)


def hide_from_others() -> None:
    """Keep this process's memory and its first environment, where a token stands, from other processes of its account.

    On Linux by `prctl(PR_SET_DUMPABLE, 0)`; elsewhere nothing is done.
    """
    if sys.platform == "linux":
        ctypes.CDLL(None).prctl(_PR_SET_DUMPABLE, 0, 0, 0, 0)


def end_group(process: "subprocess.Popen[bytes] | subprocess.Popen[str]", *, kill: bool) -> None:
    """Ask a process and all that it started to end, or end them.

    Raises
    ------
    ProcessLookupError
        When it is gone already.
    """
    if sys.platform != "win32":
        os.killpg(process.pid, signal.SIGKILL if kill else signal.SIGTERM)
        return
    try:
        leader = psutil.Process(process.pid)
        for one in [*leader.children(recursive=True), leader]:
            if kill:
                one.kill()
            else:
                one.terminate()
    except psutil.NoSuchProcess:
        raise ProcessLookupError(process.pid) from None


def signal_name(number: int) -> str:
    """How a signal is called that ended a process."""
    try:
        return signal.Signals(number).name
    except ValueError:
        return str(number)


def forget_file(descriptor: int) -> bool:
    """Ask the system to forget what it holds of a file in memory; returns whether it can be asked."""
    if sys.platform == "linux":
        os.posix_fadvise(descriptor, 0, 0, os.POSIX_FADV_DONTNEED)
        return True
    return False
