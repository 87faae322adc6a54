"""Child processes that end with their parent."""

import ctypes
import os
import pwd
import signal
import subprocess
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Protocol

_PR_SET_PDEATHSIG = 1
_libc = ctypes.CDLL(None, use_errno=True)


def end_with_parent() -> None:
    """Runs in the child: leave the terminal's process group, and end when the parent is killed (prctl(2))."""
    os.setsid()
    _libc.prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


class Running(Protocol):
    """A child process, however it was begun."""

    @property
    def running(self) -> bool: ...
    @property
    def exit_code(self) -> int | None: ...
    def stop(self, timeout_s: float = 10) -> None: ...


class Child:
    """One child process. Ctrl-C reaches the parent only, which then stops its children in order."""

    def __init__(self, name: str, process: "subprocess.Popen[bytes]") -> None:
        self.name = name
        self._process = process

    @classmethod
    def start(
        cls,
        name: str,
        command: Sequence[str],
        *,
        environment: Mapping[str, str] | None = None,
        log: Path | None = None,
        user: str | None = None,
        handed: Sequence[int] = (),
    ) -> "Child":
        """Start a process, as `user` where one is named; its output goes to `log`, or nowhere.

        `handed` are file descriptors that it keeps. The user is changed before the tie to the parent is made: a process
        that changes it by itself loses the tie.
        """
        output = log.open("ab") if log else subprocess.DEVNULL
        try:
            process = subprocess.Popen(
                command,
                env={**os.environ, **(environment or {})},
                stdin=subprocess.DEVNULL,
                stdout=output,
                stderr=subprocess.STDOUT,
                user=user,
                group=pwd.getpwnam(user).pw_gid if user else None,
                extra_groups=[] if user else None,
                pass_fds=handed,
                preexec_fn=end_with_parent,
            )
        finally:
            if log:
                output.close()  # type: ignore[union-attr]
        return cls(name, process)

    @property
    def running(self) -> bool:
        return self._process.poll() is None

    @property
    def exit_code(self) -> int | None:
        return self._process.poll()

    @property
    def pid(self) -> int:
        return self._process.pid

    def stop(self, timeout_s: float = 10) -> None:
        """Ask the process to end, wait, and end it by force when it does not."""
        if self.running:
            self._process.terminate()
        try:
            self._process.wait(timeout_s)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
