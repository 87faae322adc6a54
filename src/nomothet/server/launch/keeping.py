"""Parts that are started again when they end by themselves."""

import time
from collections.abc import Callable
from pathlib import Path

from nomothet.server.launch.children import Running
from nomothet.server.launch.errors import LaunchError

_FIRST_PAUSE_S = 0.5
_LONGEST_PAUSE_S = 5.0
# A part that ran for so long begins again with the short pause.
_STEADY_S = 20.0


class KeptPart:
    """A part of the installation, with how it is started.

    Parameters
    ----------
    start : callable
        Starts it and gives the process; a `LaunchError` counts as an end.
    may_end : bool
        Whether it is over when it ends with status 0.
    say : callable
        Tells the person at the terminal.
    """

    def __init__(
        self,
        name: str,
        start: Callable[[], Running],
        *,
        may_end: bool = False,
        log: Path | None = None,
        say: Callable[[str], None] = lambda words: print(words, flush=True),
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self.name = name
        self._start = start
        self._may_end = may_end
        self.log = log
        self._say = say
        self._clock = clock
        self._pause_s = _FIRST_PAUSE_S
        self._again_at: float | None = None
        self._started_at = 0.0
        # How often it has ended by itself; being killed is no end of its own.
        self.own_ends = 0
        self.child: Running | None = None

    def start(self) -> None:
        """Start it for the first time.

        Raises
        ------
        LaunchError
        """
        self._started_at = self._clock()
        self.child = self._start()

    def look(self) -> None:
        """See whether it runs; when it has ended, start it again after a pause that grows with every end."""
        now = self._clock()
        if self._again_at is not None:
            if now >= self._again_at:
                self._begin_again()
            return
        assert self.child is not None
        if self.child.running or (self._may_end and self.child.exit_code == 0):
            return
        if now - self._started_at >= _STEADY_S:
            self._pause_s = _FIRST_PAUSE_S
        self.own_ends += (self.child.exit_code or 0) >= 0
        where = f"; see {self.log}" if self.log else ""
        self._wait(f"{self.name} ended with status {self.child.exit_code}{where}")

    def stop(self, timeout_s: float = 10) -> None:
        if self.child is not None:
            self.child.stop(timeout_s)

    def _begin_again(self) -> None:
        self._again_at = None
        try:
            self.start()
        except LaunchError as error:
            self._wait(f"{self.name} did not start: {error}")
            return
        self._say(f"nomothet: {self.name} runs again")

    def _wait(self, why: str) -> None:
        self._say(f"nomothet: {why}; it is started again in {self._pause_s:g} s")
        self._again_at = self._clock() + self._pause_s
        self._pause_s = min(_LONGEST_PAUSE_S, 2 * self._pause_s)
