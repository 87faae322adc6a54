"""Parameters of a simulated system and of what workloads ask of it, read from TOML."""

import tomllib
from dataclasses import dataclass, fields
from pathlib import Path
from typing import Any, TypeVar

from nomothet.bench.errors import BenchError

T = TypeVar("T")


@dataclass(frozen=True)
class Chip:
    """Power and heat of the package in which processor and graphics share a budget."""

    cores: int
    max_clock_mhz: float
    floor_clock: float
    base_w: float
    processor_w: float
    graphics_w: float
    # Power rises with the clock to this exponent.
    exponent: float
    # The firmware takes no power limit under this.
    lowest_limit_w: float
    memory_gb: float
    idle_memory_gb: float


@dataclass(frozen=True)
class Heat:
    """Two nodes: the die, and the sink that the air cools. K/W, J/K, °C."""

    ambient_c: float
    die_to_sink: float
    sink_to_air: float
    die_capacity: float
    sink_capacity: float
    start_c: float
    limit_c: float


@dataclass(frozen=True)
class Noise:
    """Run-to-run noise (SD of logs), noise from frame to frame, and how often a pass goes odd."""

    run_sd: float
    frame_sd: float
    odd_share: float
    odd_loss: float


@dataclass(frozen=True)
class Demand:
    """What one workload asks: work per frame on either side at full clock, and how it uses memory and time."""

    workload: str
    kind: str
    duration_s: float
    # At full clock: processor time per frame, graphics time per frame and per million pixels.
    processor_ms: float = 0.0
    graphics_ms: float = 0.0
    graphics_ms_per_mpx: float = 0.0
    # Share of the time that waits for memory and so does not follow the clock.
    memory_share: float = 0.0
    # For a timed task: seconds of work at full clock.
    work_s: float = 0.0
    threads: float = 1.0
    graphics_load: float = 0.0
    memory_gb: float = 2.0
    scene_swing: float = 0.08
    hitches_per_min: float = 0.6
    # While the clock is held down by heat, so many hitches a minute come on top.
    hot_hitches_per_min: float = 0.0


@dataclass(frozen=True)
class Event:
    """A pass on which something happens on purpose: an outcome, or odd slowness."""

    workload: str
    configuration: str
    number: int
    outcome: str = "completed"
    note: str = ""
    loss: float = 0.0


@dataclass(frozen=True)
class Parameters:
    name: str
    seed: int
    chip: Chip
    heat: Heat
    noise: Noise
    demands: dict[str, Demand]
    events: list[Event]
    inventory: dict[str, Any]

    def event_for(self, workload: str, configuration: str, number: int) -> Event | None:
        for event in self.events:
            if (event.workload, event.configuration, event.number) == (workload, configuration, number):
                return event
        return None


def read_parameters(path: Path) -> Parameters:
    """Read a system's parameters.

    Raises
    ------
    BenchError
        When the file cannot be read or a field is missing or unknown; the message names it.
    """
    try:
        data = tomllib.loads(path.read_text(encoding="utf-8"))
    except (OSError, tomllib.TOMLDecodeError) as error:
        raise BenchError(f"{path}: {error}") from None
    demands = [_build(Demand, demand, path, "demand") for demand in data.get("demand", [])]
    return Parameters(
        name=str(data.get("name", path.stem)),
        seed=int(data.get("seed", 1)),
        chip=_build(Chip, data.get("chip", {}), path, "chip"),
        heat=_build(Heat, data.get("heat", {}), path, "heat"),
        noise=_build(Noise, data.get("noise", {}), path, "noise"),
        demands={demand.workload: demand for demand in demands},
        events=[_build(Event, event, path, "event") for event in data.get("event", [])],
        inventory=data.get("inventory", {}),
    )


def _build(kind: type[T], values: dict[str, Any], path: Path, section: str) -> T:
    unknown = set(values) - {field.name for field in fields(kind)}  # type: ignore[arg-type]
    if unknown:
        raise BenchError(f"{path}, [{section}]: {', '.join(sorted(unknown))} is not known")
    try:
        return kind(**values)
    except TypeError as error:
        raise BenchError(f"{path}, [{section}]: {error}") from None
