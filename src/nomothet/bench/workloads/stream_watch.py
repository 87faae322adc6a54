"""One attempt of a load search: so many streams of pictures, each picture with a deadline.

Every stream gives a picture to follow at its rate; a picture that waits longer than the buffer is late, and the first
late one breaks the load.
"""

import argparse
import sys
import threading
import time

import numpy as np

from nomothet.bench.platforms import usable_processors

_PICTURE = 192


class Streams:
    """Pictures of all streams, taken by as many workers as there are processors."""

    def __init__(self, load: int, rate_hz: float, buffer: int) -> None:
        self._step_s = 1 / rate_hz
        self._patience_s = buffer * self._step_s
        self._lock = threading.Lock()
        self._due = [at * self._step_s / max(1, load) for at in range(load)]
        self._begin = time.perf_counter()
        self._over = threading.Event()
        self.followed = 0
        self.broke_at_s: float | None = None

    def take(self) -> float | None:
        """The picture that has waited longest, as its due time; None when none is due yet."""
        with self._lock:
            now = time.perf_counter() - self._begin
            at = min(range(len(self._due)), key=self._due.__getitem__)
            due = self._due[at]
            if due > now:
                return None
            if now - due > self._patience_s and self.broke_at_s is None:
                self.broke_at_s = now
                self._over.set()
            self._due[at] = due + self._step_s
            self.followed += 1
            return due

    def work(self) -> None:
        """Follow pictures until it is over."""
        picture = np.random.default_rng(3).random((_PICTURE, _PICTURE)).astype(np.float32)
        while not self._over.is_set():
            if self.take() is None:
                self._over.wait(0.0005)
                continue
            # A blur and a centre of mass: about what following a bright spot takes.
            spectrum = np.fft.rfft2(picture)
            spread = np.fft.irfft2(spectrum * np.conj(spectrum))
            float((spread * spread).sum())

    def run(self, seconds: float) -> None:
        """All workers for so long, or until a picture is late."""
        workers = [threading.Thread(target=self.work) for _ in range(len(usable_processors()))]
        for worker in workers:
            worker.start()
        ended = self._begin + seconds
        while not self._over.is_set() and time.perf_counter() < ended:
            self._over.wait(0.25)
            print(f"left {max(0.0, ended - time.perf_counter()):.1f}", flush=True)
        self._over.set()
        for worker in workers:
            worker.join()


def main() -> int:
    """Try a load and say whether it held."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--load", type=int, required=True)
    parser.add_argument("--seconds", type=float, default=5)
    parser.add_argument("--rate", type=float, default=25)
    parser.add_argument("--buffer", type=int, default=4)
    arguments = parser.parse_args()
    print(f"phase following {arguments.load}", flush=True)
    streams = Streams(arguments.load, arguments.rate, arguments.buffer)
    streams.run(arguments.seconds)
    if streams.broke_at_s is None:
        print("load held", flush=True)
    else:
        print(f"load broke {streams.broke_at_s:.2f} a picture waited longer than the buffer", flush=True)
    print(f"figure followed {streams.followed}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
