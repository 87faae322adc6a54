"""Sampling the machine while a pass runs, on the clock of the pass."""

import json
import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol, TextIO

import numpy as np

from nomothet.bench.job import Captured


@dataclass(frozen=True)
class Sensor:
    """What one column of samples is: its name, unit, place, source, and its capacity where it has one."""

    name: str
    unit: str
    place: str
    source: str
    capacity: float | None = None


class SensorSource(Protocol):
    """Where readings come from: the operating system, an exporter, a meter."""

    sensors: list[Sensor]

    def read(self) -> list[float]:
        """One value per sensor, in their order; NaN where a reading failed."""


class Sampler:
    """Reads sensors at a steady rate in a thread and writes each sample to a file as it comes.

    Parameters
    ----------
    origin : float
        `time.monotonic()` at the start of the pass.
    """

    def __init__(self, sources: Sequence[SensorSource], path: Path, origin: float, rate_hz: float) -> None:
        self._sources = sources
        self._sensors = [sensor for source in sources for sensor in source.sensors]
        self._file: TextIO = path.open("w", buffering=1)
        self._origin = origin
        self._step_s = 1 / rate_hz
        self._over = threading.Event()
        self._latest: list[float] = []
        self.cost_s = 0.0
        self.samples = 0
        header = [vars(sensor) for sensor in self._sensors]
        self._file.write(json.dumps({"sensors": header}) + "\n")
        self._thread = threading.Thread(target=self._loop, name="sampler", daemon=True)

    @property
    def latest(self) -> dict[str, float | None]:
        """The last reading by the names of the sensors, None where one failed; empty before the first."""
        return {sensor.name: None if v != v else v for sensor, v in zip(self._sensors, self._latest, strict=False)}

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        self._over.set()
        self._thread.join()
        self._file.close()

    def _loop(self) -> None:
        started = time.thread_time()
        due = time.monotonic()
        while not self._over.is_set():
            at = time.monotonic() - self._origin
            values = [value for source in self._sources for value in source.read()]
            self._file.write(json.dumps([round(at, 4), *(None if v != v else round(v, 3) for v in values)]) + "\n")
            self._latest = values
            self.samples += 1
            self.cost_s = time.thread_time() - started
            due += self._step_s
            self._over.wait(max(0.0, due - time.monotonic()))


def read_samples(path: Path) -> list[Captured]:
    """The series of a sample file; a last line that a crash cut short is left out."""
    if not path.exists():
        return []
    lines = path.read_text().splitlines()
    if not lines:
        return []
    sensors = [Sensor(**sensor) for sensor in json.loads(lines[0])["sensors"]]
    rows = []
    for line in lines[1:]:
        try:
            rows.append(json.loads(line))
        except ValueError:
            break
    if not rows:
        return []
    table = np.array(rows, dtype=np.float64)
    return [
        Captured(
            sensor.name,
            "sensor",
            {"t_s": table[:, 0], "value": table[:, at]},
            sensor.unit,
            sensor.place,
            sensor.source,
            sensor.capacity,
        )
        for at, sensor in enumerate(sensors, start=1)
        if np.isfinite(table[:, at]).any()
    ]
