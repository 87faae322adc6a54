"""Child processes that begin as a copy of this one: what it has read of the code, they need not read again."""

import ctypes
import multiprocessing
import os
import signal
import sys
from collections.abc import Callable
from pathlib import Path

from nomothet.server.launch.children import end_with_parent

_PR_SET_NAME = 15
_FORK = multiprocessing.get_context("fork")
_libc = ctypes.CDLL(None, use_errno=True)


class ForkedChild:
    """One of them. The process that starts it holds no connection and runs no other thread meanwhile."""

    def __init__(self, name: str, process: multiprocessing.process.BaseProcess) -> None:
        self.name = name
        self._process = process

    @classmethod
    def start(cls, name: str, run: Callable[[], None], *, log: Path) -> "ForkedChild":
        """Start what `run` does; its output goes to `log`. `name` is what the list of processes shows, cut to 15
        letters there."""
        process = _FORK.Process(target=_run, args=(name, run, log, os.getpid()), name=name)
        process.start()
        return cls(name, process)

    @property
    def running(self) -> bool:
        return self._process.is_alive()

    @property
    def exit_code(self) -> int | None:
        return self._process.exitcode

    @property
    def pid(self) -> int:
        assert self._process.pid is not None
        return self._process.pid

    def stop(self, timeout_s: float = 10) -> None:
        """Ask the process to end, wait, and end it by force when it does not."""
        self._process.terminate()
        self._process.join(timeout_s)
        if self._process.is_alive():
            self._process.kill()
            self._process.join()


def _run(name: str, run: Callable[[], None], log: Path, parent: int) -> None:
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, signal.SIG_DFL)
    end_with_parent()
    if os.getppid() != parent:
        # It was gone before the tie to it was made.
        sys.exit(1)
    _libc.prctl(_PR_SET_NAME, name.encode())
    with log.open("ab") as output:
        os.dup2(output.fileno(), 1)
        os.dup2(output.fileno(), 2)
    run()
