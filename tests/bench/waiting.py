"""Waiting for what another thread or process is about to do."""

import threading
import time
from collections.abc import Callable

LATEST_S = 20.0


def eventually(what: Callable[[], bool]) -> bool:
    """Whether something becomes true before long."""
    end = time.monotonic() + LATEST_S
    while time.monotonic() < end:
        if what():
            return True
        threading.Event().wait(0.02)
    return False
