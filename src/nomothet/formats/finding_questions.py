"""The questions of `nomothet analyse` about several cells or tests at once, as types; docs/analyse.md shows them."""

from typing import Annotated, Any

from msgspec import UNSET, Meta, UnsetType

from nomothet.formats.questions import Above, Direction, NotBelow, Question

Values = Annotated[list[Above], Meta(min_length=1)]


class OverallTest(Question, kw_only=True):
    cells: dict[str, Any]
    direction: Direction = "higher"
    weight: Above = 1.0
    left_out: Annotated[str, Meta(min_length=1)] | None = None


class Overall(Question, kw_only=True):
    baseline: str
    tests: dict[str, Any]
    margin: Above = 0.03


class SweepLevel(Question, kw_only=True):
    level: int | float | Annotated[str, Meta(min_length=1)]
    values: Values
    price: NotBelow | None = None


class Sweep(Question, kw_only=True):
    levels: list[SweepLevel]
    direction: Direction = "higher"
    margin: Above = 0.03


class ChainCell(Question, kw_only=True):
    name: Annotated[str, Meta(min_length=1)]
    values: Values


class Chain(Question, kw_only=True):
    steps: list[ChainCell]
    direction: Direction = "higher"
    margin: Above = 0.03


class GridCell(Question, kw_only=True):
    levels: list[Annotated[int, Meta(ge=0, le=1)]]
    values: Values


class Grid(Question, kw_only=True):
    factors: list[Annotated[str, Meta(min_length=1)]]
    cells: list[GridCell]
    direction: Direction = "higher"
    margin: Above = 0.03


class ScalingPoint(Question, kw_only=True):
    n: Above
    values: Values


class Scaling(Question, kw_only=True):
    points: list[ScalingPoint]
    direction: Direction = "higher"


class CrossoverSize(Question, kw_only=True):
    size: Above
    a: Values
    b: Values


class Crossover(Question, kw_only=True):
    sizes: list[CrossoverSize]
    direction: Direction = "higher"


class Power(Question, kw_only=True):
    """Readings of power in W; null is one that failed."""

    t_s: list[float]
    values: list[NotBelow | None]


class Economy(Question, kw_only=True):
    power: Power
    from_s: NotBelow = 0.0
    to_s: Above | None = None
    idle_w: NotBelow | UnsetType = UNSET
    rate: Above | UnsetType = UNSET
    price: Above | UnsetType = UNSET


class Priced(Question, kw_only=True):
    values: Values
    price: NotBelow | None = None


class Frontier(Question, kw_only=True):
    configurations: dict[str, Any]
    direction: Direction = "higher"
    margin: Above = 0.03


class TargetRate(Question, kw_only=True):
    fps: Above
    averages: Values
    lows: list[Above] | None = None
    thin: bool = False
    held_at: Above | None = None


class ForecastJob(Question, kw_only=True):
    seconds: Above
    done: Above
    whole: Above
    before_s: NotBelow = 0.0
