"""Sampling the machine while a pass runs, on the clock of the pass."""

import json
import math
import re
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol, TextIO

import numpy as np
import psutil

from nomothet.bench.job import Captured
from nomothet.bench.platforms import temperatures

GIB = 1024**3
_LOOK_FOR_CHILDREN_S = 2.0
_FAULTS = re.compile(rb"^pgmajfault (\d+)$", re.MULTILINE)


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


class SystemSensors:
    """What the operating system offers; what it does not offer is left out, never guessed."""

    def __init__(self) -> None:
        memory = psutil.virtual_memory().total / GIB
        swap = psutil.swap_memory().total / GIB
        self._cores = psutil.cpu_count() or 1
        self._has_clock = _offers(lambda: psutil.cpu_freq())
        self._temperatures = list(temperatures())
        self._has_swap = swap > 0
        self._flows = Flows()
        self.sensors = [
            Sensor("processor use", "%", "all cores", "psutil cpu_percent", 100),
            Sensor("busiest core", "%", "busiest core", "psutil cpu_percent", 100),
            *(Sensor(f"core {at}", "%", f"core {at}", "psutil cpu_percent", 100) for at in range(self._cores)),
            Sensor("memory used", "GiB", "main memory", "psutil virtual_memory", round(memory, 2)),
            Sensor("memory available", "GiB", "main memory", "psutil virtual_memory", round(memory, 2)),
        ]
        if self._has_swap:
            self.sensors.append(Sensor("swap used", "GiB", "swap", "psutil swap_memory", round(swap, 2)))
        if self._has_clock:
            self.sensors.append(Sensor("clock", "MHz", "mean of cores", "psutil cpu_freq"))
        self.sensors += [Sensor(f"temperature {place}", "°C", place, "psutil") for place in self._temperatures]
        self.sensors += self._flows.sensors
        psutil.cpu_percent(percpu=True)

    @property
    def missing(self) -> list[str]:
        """What this system does not tell."""
        absent = [] if self._has_clock else ["clock"]
        absent += [] if self._temperatures else ["temperature"]
        return absent + ([] if self._has_swap else ["swap (there is none)"])

    def read(self) -> list[float]:
        """One value per sensor, in their order; NaN where a reading failed."""
        cores = psutil.cpu_percent(percpu=True)
        cores = [*cores, *[math.nan] * (self._cores - len(cores))][: self._cores]
        memory = psutil.virtual_memory()
        used, available = (memory.total - memory.available) / GIB, memory.available / GIB
        values = [sum(cores) / len(cores), max(cores), *cores, used, available]
        if self._has_swap:
            values.append(psutil.swap_memory().used / GIB)
        if self._has_clock:
            clock = psutil.cpu_freq()
            values.append(clock.current if clock else math.nan)
        if self._temperatures:
            now = temperatures()
            values += [now.get(place, math.nan) for place in self._temperatures]
        return [*values, *self._flows.read()]


class Flows:
    """What flows, as rates since the last reading: disk, network, major page faults, and waiting for storage."""

    def __init__(self) -> None:
        self._faults = _major_faults()
        self._cores = psutil.cpu_count() or 1
        self.sensors = [
            Sensor("disk read", "MB/s", "all drives", "psutil disk_io_counters"),
            Sensor("disk written", "MB/s", "all drives", "psutil disk_io_counters"),
            Sensor("network received", "MB/s", "all but loopback", "psutil net_io_counters"),
            Sensor("network sent", "MB/s", "all but loopback", "psutil net_io_counters"),
            Sensor("waiting for storage", "%", "all cores", "psutil cpu_times", 100),
        ]
        if self._faults is not None:
            self.sensors.append(Sensor("major page faults", "1/s", "all processes", "/proc/vmstat"))
        self._last = self._counted()

    def read(self) -> list[float]:
        """Rates since the last reading; the first ones are since the source was made."""
        now, last = self._counted(), self._last
        self._last = now
        step = now[0] - last[0]
        if step <= 0:
            return [math.nan] * len(self.sensors)
        rates = [(a - b) / step for a, b in zip(now[1:], last[1:], strict=True)]
        rates[4] = min(100.0, max(0.0, 100 * rates[4] / self._cores))
        return [rate if rate >= 0 else math.nan for rate in rates]

    def _counted(self) -> list[float]:
        # A counter that begins anew shows by a rate below 0, which is none; psutil need not mend it.
        disk = psutil.disk_io_counters(nowrap=False)
        network = [one for name, one in psutil.net_io_counters(pernic=True, nowrap=False).items() if name != "lo"]
        counted = [
            time.monotonic(),
            (disk.read_bytes if disk else 0) / 1e6,
            (disk.write_bytes if disk else 0) / 1e6,
            sum(one.bytes_recv for one in network) / 1e6,
            sum(one.bytes_sent for one in network) / 1e6,
            getattr(psutil.cpu_times(), "iowait", 0.0),
        ]
        return [*counted, float(_major_faults() or 0)] if self._faults is not None else counted


class ProcessSensors:
    """What the workload's own processes use."""

    def __init__(self, pid: int) -> None:
        self._pid = pid
        self._family: list[psutil.Process] = []
        self._looked_at = -math.inf
        self.sensors = [
            Sensor("workload processor use", "%", "its processes, 100 % is one core", "psutil Process"),
            Sensor("workload memory", "GiB", "its processes", "psutil Process"),
        ]
        self._last = (time.monotonic(), self._spent()[0])

    def read(self) -> list[float]:
        now, (spent, memory) = time.monotonic(), self._spent()
        before, last = self._last
        self._last = (now, spent)
        use = 100 * (spent - last) / (now - before) if now > before and spent >= last else math.nan
        return [use, memory]

    def _spent(self) -> tuple[float, float]:
        spent = memory = 0.0
        try:
            for one in self._processes():
                with one.oneshot():
                    spent += sum(one.cpu_times()[:2])
                    memory += one.memory_info().rss / GIB
        except psutil.Error:
            self._looked_at = -math.inf
            return math.nan, math.nan
        return spent, memory

    def _processes(self) -> list[psutil.Process]:
        """The workload and its children; these are looked for once in a while, as that reads every process there is."""
        now = time.monotonic()
        if now - self._looked_at > _LOOK_FOR_CHILDREN_S:
            process = psutil.Process(self._pid)
            self._family = [process, *process.children(recursive=True)]
            self._looked_at = now
        return self._family


def hottest(sensors: SystemSensors) -> float | None:
    """The hottest place that the system tells of; None where it tells of none."""
    read = zip(sensors.sensors, sensors.read(), strict=True)
    found = [value for sensor, value in read if sensor.unit == "°C" and math.isfinite(value)]
    return max(found, default=None)


def _major_faults() -> int | None:
    try:
        found = _FAULTS.search(Path("/proc/vmstat").read_bytes())
    except OSError:
        return None
    return int(found[1]) if found else None


def _offers(read: Callable[[], object]) -> bool:
    try:
        return bool(read())
    except (OSError, NotImplementedError, AttributeError):
        return False


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
