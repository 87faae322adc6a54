"""A recording as sensors see it: at the sampling rate, with their noise and steps."""

import numpy as np

from nomothet.bench.job import Captured
from nomothet.bench.simulated.conditions import Conditions
from nomothet.bench.simulated.model import Floats, Recording
from nomothet.bench.simulated.work import STEP_S

SOURCE = "simulated sensor"


def captures_of(
    recording: Recording, conditions: Conditions, rate_hz: float, rng: np.random.Generator, stuck: str = ""
) -> list[Captured]:
    """Frames, if there are any, and a lane for each sensor; the stuck one shows its first value throughout."""
    every = max(1, round(1 / (rate_hz * STEP_S)))
    t = np.array(recording.t_s)[::every]

    def lane(
        name: str, values: list[float], unit: str, place: str, sd: float, step: float, capacity: float | None
    ) -> Captured:
        seen = np.array(values)[::every] + rng.normal(0, sd, len(t))
        seen = np.round(seen / step) * step
        if capacity is not None:
            seen = np.clip(seen, 0, capacity)
        if name == stuck and len(seen):
            seen = np.full_like(seen, seen[0])
        columns = {"t_s": t, "value": _rounded(seen)}
        return Captured(name, "sensor", columns, unit, place, SOURCE, capacity)

    memory, graphics = conditions.memory_gb, conditions.graphics_memory_gb
    lanes = [
        lane("graphics use", recording.graphics_pct, "%", "graphics", 0.8, 1, 100),
        lane("busiest core", recording.busiest_pct, "%", "busiest core", 1.5, 1, 100),
        lane("processor use", recording.processor_pct, "%", "all cores", 1.0, 1, 100),
        lane("memory used", recording.memory_gb, "GB", "main memory", 0.02, 0.1, memory),
        lane("temperature", recording.die_c, "°C", "package", 0.4, 1, None),
        lane("clock", recording.clock_mhz, "MHz", "mean of cores", 12, 25, None),
        lane("power", recording.power_w, "W", "package", 0.15, 0.1, None),
    ]
    if max(recording.graphics_w, default=0) > 0:
        lanes.append(lane("graphics power", recording.graphics_w, "W", "graphics", 0.15, 0.1, None))
    if max(recording.graphics_memory_gb, default=0) > 0:
        lanes.append(lane("graphics memory used", recording.graphics_memory_gb, "GB", "graphics", 0.01, 0.05, graphics))
    if max(recording.swap_gb, default=0) > 0:
        lanes.append(lane("swap used", recording.swap_gb, "GB", "swap", 0.01, 0.05, None))
        lanes.append(lane("major page faults", recording.faults_hz, "1/s", "all processes", 0, 1, None))
    frames = np.array(recording.frame_ms)
    if not len(frames):
        return lanes
    return [Captured("frames", "frames", {"frame_ms": frames}, "ms", "", "simulated frames"), *lanes]


def cut(captured: Captured, played_s: float) -> Captured:
    """What was recorded up to a moment."""
    if captured.kind == "frames":
        frames = captured.columns["frame_ms"]
        kept = int(np.searchsorted(np.cumsum(frames.astype(float)) / 1000, played_s))
        columns = {"frame_ms": frames[: max(1, kept)]}
    else:
        kept = int(np.searchsorted(captured.columns["t_s"].astype(float), played_s))
        columns = {name: column[: max(1, kept)] for name, column in captured.columns.items()}
    return Captured(**{**vars(captured), "columns": columns})


def _rounded(values: Floats) -> Floats:
    return np.round(values, 3)
