"""The questions that `nomothet analyse` and `nomothet compare` take, as types; docs/analyse.md shows them."""

from typing import Annotated, Any, Literal

import msgspec
from msgspec import UNSET, Meta, UnsetType

Above = Annotated[float, Meta(gt=0)]
NotBelow = Annotated[float, Meta(ge=0)]
Direction = Literal["higher", "lower"]
Scalar = str | float | bool | None


class Question(msgspec.Struct, forbid_unknown_fields=True):
    """A question; keys that it does not know are refused."""


class Passes(Question, kw_only=True):
    values: list[float]
    scale: Literal["ratio", "difference"] = "ratio"
    others: list[list[float]] | None = None
    borrowed_sd: Above | None = None


class SensorData(Question, kw_only=True):
    """A sensor of a recording; null is a reading that failed."""

    name: Annotated[str, Meta(min_length=1)]
    unit: str = ""
    t_s: list[float]
    values: list[float | None]
    capacity: Above | None = None


class Declares(Question, kw_only=True):
    cap_fps: Above | None = None
    power_w: Above | None = None
    temperature_c: float | None = None


class Recording(Question, kw_only=True):
    frame_times_ms: list[float] | UnsetType = UNSET
    starts_at_s: NotBelow = 0.0
    length_s: NotBelow = 0.0
    sensors: list[SensorData] = []
    from_s: NotBelow = 0.0
    to_s: Above | None = None
    declared: Declares = msgspec.field(default_factory=Declares)


class Pairs(Question, kw_only=True):
    """Paired passes of one test, in order: without and with the recorder."""

    off: list[Above]
    on: list[Above]
    direction: Direction = "higher"


class Overhead(Question, kw_only=True):
    tests: dict[str, Any]


class MemoryArithmetic(Question, kw_only=True):
    rate_mts: Above
    channels: Above = 1
    cas: Above | UnsetType = UNSET
    reading: Above | UnsetType = UNSET


class Comparable(Question, kw_only=True):
    a: dict[str, Any]
    b: dict[str, Any]
    factors: list[str] = []
    accepted: dict[str, str] = {}


class UseOfTest(Question, kw_only=True):
    values: list[NotBelow | None]
    capacity: Above | None = None
    idle: NotBelow | None = None


class EnoughMemory(Question, kw_only=True):
    tests: dict[str, Any]
    sizes: list[Above]
    reserve: NotBelow = 0.2


class Plan(Question, kw_only=True):
    start: Above | None = None
    growth: float | None = None
    resolution: Above | None = None
    floor: Above | None = None
    ceiling: Above | None = None
    confirm: Above | None = None
    soak_s: NotBelow | None = None
    rungs: list[str] | str | None = None


class Try(Question, kw_only=True):
    """One attempt of a search."""

    load: float
    holds: bool
    hot: bool = False
    time_to_failure_s: NotBelow | None = None
    reason: str = ""


class Search(Question, kw_only=True):
    plan: Plan
    attempts: list[Try] = []


class PlacedPass(Question, kw_only=True):
    """A pass with the round and the session that it was run in, by whatever names these have."""

    value: float
    round: str | int | None = None
    session: str | int | None = None


class Compare(Question, kw_only=True):
    """Passes of a cell are numbers, or `PlacedPass`."""

    baseline: str
    cells: dict[str, Any]
    direction: Direction = "higher"
    margin: Above = 0.03
