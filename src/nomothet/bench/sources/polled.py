"""A source on the network, read in a thread of its own so that it never holds the sampler up."""

import math
import threading
import time
from abc import ABC, abstractmethod

import structlog

from nomothet.bench.sampling import Sensor

log = structlog.get_logger(__name__)

# A value older than this is no reading any more.
_STALE_S = 3.0


class PolledSource(ABC):
    """Reads as fast as the other side answers, at most at `rate_hz`, and hands out the latest values."""

    def __init__(self, sensors: list[Sensor], rate_hz: float) -> None:
        self.sensors = sensors
        self._step_s = 1 / rate_hz
        self._latest: tuple[float, list[float]] = (-math.inf, [])
        self._over = threading.Event()
        self._failed = False
        self._thread = threading.Thread(target=self._loop, name=type(self).__name__, daemon=True)
        self._thread.start()

    def read(self) -> list[float]:
        at, values = self._latest
        if time.monotonic() - at > _STALE_S:
            return [math.nan] * len(self.sensors)
        return values

    def close(self) -> None:
        self._over.set()
        self._thread.join(timeout=5)

    @abstractmethod
    def _ask(self) -> list[float]:
        """One value per sensor; raises what the connection raises."""

    def _loop(self) -> None:
        while not self._over.is_set():
            began = time.monotonic()
            try:
                self._latest = (time.monotonic(), self._ask())
                self._failed = False
            except Exception as error:
                # Whatever goes wrong out there must not end the pass; the lane shows the gap.
                if not self._failed:
                    log.warning("source silent", source=self.sensors[0].source, reason=str(error))
                self._failed = True
            self._over.wait(max(0.05, self._step_s - (time.monotonic() - began)))
