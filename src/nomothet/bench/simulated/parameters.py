"""Parameters of a simulated system, read from TOML; what workloads ask of it stands in a file that systems share."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from pathlib import Path
from typing import Any, TypeVar

from nomothet.bench.errors import BenchError

T = TypeVar("T")


@dataclass(frozen=True)
class Chip:
    """Speed, power and memory of a system."""

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
    # Logical processors to a core, and what the second one of a core adds.
    threads_per_core: int = 1
    second_thread_gain: float = 0.0
    # Speed of one core and of the graphics, as multiples of those that the demands are written for; 0 is none.
    core_speed: float = 1.0
    graphics_speed: float = 1.0
    # Graphics memory of its own; without it the graphics borrow main memory as the setting says.
    graphics_memory_gb: float | None = None
    # Whether processor and graphics draw on one power limit and one clock.
    shared_limit: bool = True
    # Share of the graphics' power that heats the processor's sink.
    graphics_heat_share: float = 1.0
    # Memory that the demands' waiting share is written for.
    memory_mts: float = 5600
    channels: int = 2
    # For so many seconds the package may draw so much; without a figure, whatever it likes.
    boost_s: float = 0.0
    boost_w: float | None = None

    @property
    def logical(self) -> int:
        return self.cores * self.threads_per_core


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
class Surrounding:
    """What a setting does to the cooling: the air gets warmer by so much, the way to it longer by a factor."""

    setting: str
    value: str
    ambient_c: float = 0.0
    sink_to_air: float = 1.0


@dataclass(frozen=True)
class Fitted:
    """What sits in the machine in a configuration, where it is not what the chip says."""

    configuration: str
    memory_gb: float | None = None
    channels: int | None = None


@dataclass(frozen=True)
class Noise:
    """Run-to-run noise (SD of logs), noise from frame to frame, and how often a pass goes odd."""

    run_sd: float
    frame_sd: float
    odd_share: float
    odd_loss: float
    # How much slower everything is while sensors are recorded.
    recorder_cost: float = 0.0


@dataclass(frozen=True)
class Demand:
    """What one workload asks: work per frame on either side at full clock, and how it uses memory and time."""

    workload: str
    # scene | task | suite | streams | soak
    kind: str
    duration_s: float
    # At full clock: processor time per frame, graphics time per frame and per million pixels.
    processor_ms: float = 0.0
    graphics_ms: float = 0.0
    graphics_ms_per_mpx: float = 0.0
    # Share of the time that waits for memory and so does not follow the clock.
    memory_share: float = 0.0
    # For a timed task: seconds of work of one core at full clock, and the share of it that threads can divide.
    work_s: float = 0.0
    parallel_share: float = 0.0
    threads: float = 1.0
    graphics_load: float = 0.0
    # A task that the graphics can do: how much faster than one core, and how long it takes to hand it over.
    graphics_gain: float = 0.0
    hand_over_s: float = 0.0
    # The share of a task's work after which it shows a first picture; 0 for a task that shows none.
    first_share: float = 0.0
    memory_gb: float = 2.0
    graphics_memory_gb: float = 0.0
    graphics_memory_gb_per_mpx: float = 0.0
    scene_swing: float = 0.08
    hitches_per_min: float = 0.6
    # While the clock is held down by heat, so many hitches a minute come on top.
    hot_hitches_per_min: float = 0.0
    # Factor on the work by the setting "scene".
    scenes: Mapping[str, float] = field(default_factory=dict)
    # A suite's points for one core at full clock; the rate at which pictures of one stream come.
    points: float = 0.0
    pictures_hz: float = 0.0
    # Noise (SD of logs) of what a tenth of a second of streams asks, and of how an attempt goes as a whole.
    burst_sd: float = 0.0
    attempt_sd: float = 0.0


@dataclass(frozen=True)
class Event:
    """A pass on which something happens on purpose; a configuration of "*" and a number of 0 mean any.

    `at_s` says when a crash, a hang or an end comes, `over_c` from which temperature pictures are at fault, `stuck`
    which sensor stands still, `drift` how much slower each pass is than the one before, `profile_mts` what is left of a
    lost memory profile, and `limit_w` the power limit that the firmware keeps whatever is asked.
    """

    workload: str = "*"
    configuration: str = "*"
    number: int = 0
    outcome: str = "completed"
    note: str = ""
    loss: float = 0.0
    at_s: float | None = None
    over_c: float | None = None
    stuck: str = ""
    drift: float = 0.0
    profile_mts: float | None = None
    limit_w: float | None = None

    def is_for(self, workload: str, configuration: str, number: int) -> bool:
        return (
            self.workload in ("*", workload)
            and self.configuration in ("*", configuration)
            and self.number in (0, number)
        )


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
    surroundings: list[Surrounding] = field(default_factory=list)
    fitted: list[Fitted] = field(default_factory=list)

    def events_for(self, workload: str, configuration: str, number: int) -> list[Event]:
        return [event for event in self.events if event.is_for(workload, configuration, number)]


def read_parameters(path: Path) -> Parameters:
    """Read a system's parameters; `demands = "FILE"` names the file with what workloads ask, beside this one.

    Raises
    ------
    BenchError
        When a file cannot be read or a field is missing or unknown; the message names it.
    """
    data = _read(path)
    asked = list(data.get("demand", []))
    if "demands" in data:
        asked = [*_read(path.with_name(str(data["demands"]))).get("demand", []), *asked]
    demands = [_build(Demand, demand, path, "demand") for demand in asked]
    return Parameters(
        name=str(data.get("name", path.stem)),
        seed=int(data.get("seed", 1)),
        chip=_build(Chip, data.get("chip", {}), path, "chip"),
        heat=_build(Heat, data.get("heat", {}), path, "heat"),
        noise=_build(Noise, data.get("noise", {}), path, "noise"),
        demands={demand.workload: demand for demand in demands},
        events=[_build(Event, event, path, "event") for event in data.get("event", [])],
        inventory=data.get("inventory", {}),
        surroundings=[_build(Surrounding, one, path, "surrounding") for one in data.get("surrounding", [])],
        fitted=[_build(Fitted, one, path, "fitted") for one in data.get("fitted", [])],
    )


def _read(path: Path) -> dict[str, Any]:
    try:
        return tomllib.loads(path.read_text(encoding="utf-8"))
    except (OSError, tomllib.TOMLDecodeError) as error:
        raise BenchError(f"{path}: {error}") from None


def _build(kind: type[T], values: dict[str, Any], path: Path, section: str) -> T:
    unknown = set(values) - {field.name for field in fields(kind)}  # type: ignore[arg-type]
    if unknown:
        raise BenchError(f"{path}, [{section}]: {', '.join(sorted(unknown))} is not known")
    try:
        return kind(**values)
    except TypeError as error:
        raise BenchError(f"{path}, [{section}]: {error}") from None
