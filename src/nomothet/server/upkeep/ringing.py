"""Ringing at the workers of this machine when there is something to do."""

import time

from django.conf import settings

from nomothet.server.feed.neighbours import Bell, ring


class WorkBell:
    """What a worker waits for; without a folder for bells it looks again after a while."""

    def __init__(self) -> None:
        self._bell = Bell(settings.BELLS / "work") if settings.BELLS else None

    def wait(self, seconds: float) -> None:
        """Until somebody rings, or so long."""
        if self._bell is None:
            time.sleep(seconds)
        else:
            self._bell.wait(seconds)

    def take_down(self) -> None:
        """Hear nothing any more."""
        if self._bell is not None:
            self._bell.take_down()


def ring_for_work() -> None:
    """Tell the workers of this machine that something was queued."""
    if settings.BELLS:
        ring(settings.BELLS / "work")
