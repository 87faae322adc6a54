"""What a bench is asked to run, and what comes of it."""

import threading
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from nomothet.core.compare import Direction
from nomothet.core.passes import Scale

Column = NDArray[np.generic]


@dataclass(frozen=True)
class Job:
    """One pass to run, as the docket gives it."""

    entry: int
    number: int
    workload: str
    version: str
    runner: str
    metrics: list[dict[str, Any]]
    settings: dict[str, Any]
    configuration: str
    configured: dict[str, Any]
    # What kind of workload it is; a load search carries the attempts of its earlier parts.
    kind: str = ""
    attempts: list[dict[str, Any]] = field(default_factory=list)
    # [{"kind", "expression", "metric"}]: how figures are read from what the workload writes.
    rules: list[dict[str, Any]] = field(default_factory=list)
    # How to start it, where it does not ship with the bench; see command_plan.
    command: dict[str, Any] | None = None
    # What may stand for its placeholders, as it was approved: a list of values, or None for any single one.
    allowed: dict[str, list[Any] | None] = field(default_factory=dict)
    # "off" for a pass without sensors, run beside one with them to learn what recording costs.
    recorder: str = ""
    # The fingerprint of the program that its command was approved with; empty before the first pass.
    program: str = ""

    @classmethod
    def from_server(cls, answer: Mapping[str, Any]) -> "Job":
        return cls(
            entry=answer["entry"],
            number=answer["number"],
            workload=answer["workload"]["key"],
            version=answer["workload"]["version"],
            runner=answer["workload"]["runner"],
            metrics=answer["workload"]["metrics"],
            settings=answer["test"]["settings"],
            configuration=answer["configuration"]["name"],
            configured=answer["configuration"]["settings"],
            kind=answer["workload"].get("kind", ""),
            attempts=answer.get("attempts", []),
            rules=answer["workload"].get("rules", []),
            command=answer["workload"].get("command"),
            allowed=answer["workload"].get("allowed") or {},
            recorder=answer.get("recorder", ""),
            program=answer["workload"].get("program", ""),
        )

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)


@dataclass(frozen=True)
class Captured:
    """One series: `frame_ms` for frames, `t_s` and `value` for a sensor, on the clock of the pass."""

    name: str
    kind: str
    columns: dict[str, Column]
    unit: str = ""
    place: str = ""
    source: str = ""
    capacity: float | None = None
    starts_at_s: float = 0.0


@dataclass(frozen=True)
class Reported:
    """A figure that the workload itself reported."""

    metric: str
    value: float
    unit: str
    direction: Direction
    scale: Scale


@dataclass(frozen=True)
class PassResult:
    """A pass that is over, whatever its outcome."""

    outcome: str
    started_at: datetime
    duration_s: float
    note: str = ""
    environment: dict[str, Any] = field(default_factory=dict)
    figures: list[Reported] = field(default_factory=list)
    captures: list[Captured] = field(default_factory=list)
    owe_again: bool = False
    # Of a load search, all attempts so far.
    attempts: list[dict[str, Any]] = field(default_factory=list)
    # Of a soak, its phases on the clock of the pass: [{"label", "start_s", "end_s"}].
    phases: list[dict[str, Any]] = field(default_factory=list)


class Control:
    """Between a running pass and the agent: progress goes out, a wish to stop comes in."""

    def __init__(
        self,
        report: Callable[[str, float, float | None, dict[str, float | None]], None],
        tell_attempts: Callable[[list[dict[str, Any]]], None] = lambda attempts: None,
    ) -> None:
        self._report = report
        self.tell_attempts = tell_attempts
        self.stop_wanted = threading.Event()
        # The bench itself is ending: the pass is owed again.
        self.interrupted = threading.Event()

    @property
    def over(self) -> bool:
        return self.stop_wanted.is_set() or self.interrupted.is_set()

    def report(
        self, phase: str, elapsed_s: float, left_s: float | None, readings: dict[str, float | None] | None = None
    ) -> None:
        self._report(phase, elapsed_s, left_s, readings or {})


class Machine(Protocol):
    """What a bench runs passes on: the machine at hand, or a simulated one."""

    def inventory(self) -> dict[str, Any]:
        """What the machine tells about itself; what it cannot tell is left out."""

    def readings(self) -> dict[str, float]:
        """What the idle machine shows now, by sensor; "temperature" is its hottest place."""

    def run(self, job: Job, folder: Path, control: Control) -> PassResult:
        """Run one pass. Whatever is recorded meanwhile is written to `folder` as it comes."""

    def recover(self, job: Job, folder: Path) -> PassResult:
        """What is left of a pass whose bench was killed."""
