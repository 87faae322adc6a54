"""Sensors of the operating system: processors, memory, clock, temperatures, and flows through drives and network."""

import math

from nomothet.bench.counters import Counted, counters
from nomothet.bench.linux_temperatures import Temperatures
from nomothet.bench.sampling import Sensor

_GIB = 1024**3
_MB = 1e6


class SystemSensors:
    """What the operating system offers; what it does not offer is left out, never guessed."""

    def __init__(self) -> None:
        self._counters = counters()
        self._last = first = self._counters.count()
        self._cores = sorted(first.cores)
        heat = self._temperatures = Temperatures()
        source, memory = self._counters.source, round(first.memory / _GIB, 2)
        self._has_clock = bool(self._counters.clock_mhz())
        self.sensors = [
            Sensor("processor use", "%", "all cores", source, 100),
            Sensor("busiest core", "%", "busiest core", source, 100),
            *(Sensor(f"core {at}", "%", f"core {at}", source, 100) for at in self._cores),
            Sensor("memory used", "GiB", "main memory", source, memory),
            Sensor("memory available", "GiB", "main memory", source, memory),
        ]
        if first.swap:
            self.sensors.append(Sensor("swap used", "GiB", "swap", source, round(first.swap / _GIB, 2)))
        if self._has_clock:
            self.sensors.append(Sensor("clock", "MHz", "mean of cores", source))
        self.sensors += [Sensor(f"temperature {at}", "°C", at, heat.source) for at in heat.places]
        self.sensors += [
            Sensor("disk read", "MB/s", "all drives", source),
            Sensor("disk written", "MB/s", "all drives", source),
            Sensor("network received", "MB/s", "all but loopback", source),
            Sensor("network sent", "MB/s", "all but loopback", source),
        ]
        if first.waited_s is not None:
            self.sensors.append(Sensor("waiting for storage", "%", "all cores", source, 100))
        if first.faults is not None:
            self.sensors.append(Sensor("major page faults", "1/s", "all processes", source))

    @property
    def missing(self) -> list[str]:
        """What this system does not tell."""
        absent = [] if self._has_clock else ["clock"]
        absent += [] if self._temperatures.places else ["temperature"]
        return absent + ([] if self._last.swap else ["swap (there is none)"])

    def read(self) -> list[float]:
        """One value per sensor, in their order; NaN where a reading failed. Rates are since the last reading."""
        before = self._last
        try:
            self._last = now = self._counters.count()
        except (OSError, LookupError, ValueError):
            return [math.nan] * len(self.sensors)
        cores = [
            now.cores[at].use(before.cores[at]) if at in now.cores and at in before.cores else math.nan
            for at in self._cores
        ]
        there = [use for use in cores if not math.isnan(use)] or [math.nan]
        values = [sum(there) / len(there), max(there), *cores]
        values += [(now.memory - now.available) / _GIB, now.available / _GIB]
        if before.swap:
            values.append(now.swap_used / _GIB)
        if self._has_clock:
            values.append(self._counters.clock_mhz() or math.nan)
        return [*values, *self._temperatures.read(), *_flows(before, now)]


def _flows(before: Counted, now: Counted) -> list[float]:
    """What flowed from one moment to the other; a counter that began anew gives no rate."""
    step = now.at_s - before.at_s

    def rate(earlier: float, later: float | None) -> float:
        return (later - earlier) / step if later is not None and later >= earlier and step > 0 else math.nan

    flows = [
        rate(before.read, now.read) / _MB,
        rate(before.written, now.written) / _MB,
        rate(before.received, now.received) / _MB,
        rate(before.sent, now.sent) / _MB,
    ]
    if before.waited_s is not None:
        flows.append(min(100 * rate(before.waited_s, now.waited_s) / max(len(now.cores), 1), 100.0))
    if before.faults is not None:
        flows.append(rate(before.faults, now.faults))
    return flows


def hottest(sensors: SystemSensors) -> float | None:
    """The hottest place that the system tells of; None where it tells of none."""
    read = zip(sensors.sensors, sensors.read(), strict=True)
    found = [value for sensor, value in read if sensor.unit == "°C" and math.isfinite(value)]
    return max(found, default=None)
