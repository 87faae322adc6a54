"""What the rows of the matrix hold: a test's metric over all configurations, cell by cell."""

from dataclasses import dataclass

from nomothet.server.matrix.targets import TargetShape


@dataclass(frozen=True)
class TailShape:
    """The lows beside an average, by the review's definition. A thin one takes part in no verdict."""

    low_1pct: float | None
    low_1pct_thin: bool
    low_01pct: float | None
    low_01pct_thin: bool
    # 1 % low over average (section 19).
    evenness: float | None


@dataclass(frozen=True)
class ComparisonShape:
    """A cell against the baseline.

    `change`, `low` and `high` are the plain change of the value, in % or on the difference scale in the metric's unit;
    `better` and its ends say where the mark stands on its axis, where more is better.
    """

    change: float
    low: float | None
    high: float | None
    better: float
    better_low: float | None
    better_high: float | None
    verdict: str
    # As they stand in the cell: "−30.8 %", "−31.2 to −30.3 %", "settled by 7 passes", "1.33 × as fast".
    told: str
    interval: str
    settling: str
    speed: str
    n: int
    n_baseline: int
    # So many passes a cell would settle it; None where nothing is open, or too many would be needed.
    needed: int | None
    # By what it was made: passes, rounds or sessions; `one_session` where nobody knows what changes between sessions.
    by: str
    one_session: bool
    # Whose noise it rests on: pooled, own, borrowed or unknown.
    noise: str


@dataclass(frozen=True)
class CellShape:
    """One metric in one cell. `half_pct` is half of the 95 % interval as a share of the centre, in %."""

    n: int
    centre: float
    low: float | None
    high: float | None
    spread_pct: float | None
    half_pct: float | None
    thin: bool
    tail: TailShape | None
    comparison: ComparisonShape | None
    # Why there is no comparison, as a code and in words; empty where there is one, or none is wanted.
    why_not: str
    why_not_code: str
    # Largest half-width of its readings, and how they were taken, where they were not captured.
    half_width: float | None
    methods: list[str]
    # The rate that most of its passes were held at.
    held_fps: float | None
    # The leading figure as it would be without the recorder, where pairs of this workload show what that costs.
    corrected: float | None
    # What the configuration reads while it does nothing; None where no idle test of the review has this metric.
    idle: float | None
    # What the cell says, to be read aloud; then what that rests on.
    sentence: str
    basis: list[str]


@dataclass(frozen=True)
class NoiseShape:
    source: str
    spread: float | None
    df: float


@dataclass(frozen=True)
class ApartShape:
    """A reading that takes part in nothing: about, over, under, or remembered."""

    number: int
    value: float
    bound: str
    method: str


@dataclass(frozen=True)
class ReadingMethodShape:
    method: str
    half_width: float | None


@dataclass(frozen=True)
class RowShape:
    """A test and one of its metrics over all columns; cells by column id."""

    key: str
    test: int
    metric: str
    label: str
    unit: str
    direction: str
    scale: str
    # In % on the ratio scale, else in the metric's unit; null where the quantity has none.
    margin: float | None
    noise: NoiseShape
    # Error level of each of the row's comparisons, in %.
    level_pct: float
    cells: dict[str, CellShape]
    # What came of targets, by column id; also for cells without a figure.
    targets: dict[str, list[TargetShape]]
    # Readings shown apart, and why a cell has no value; both by column id.
    apart: dict[str, list[ApartShape]]
    gaps: dict[str, str]
    # How typed readings of this row are taken; None until somebody has said.
    reading: ReadingMethodShape | None
    # Why the metric is not trusted for this workload; then it is in no verdict. Empty where it is.
    untrusted: str
    # Whether the idle baselines were taken off its cells.
    idle_off: bool
    # "worked out", "part" or "toggle" for what is not measured by itself, "first" for first runs; empty for the rest.
    kind: str
