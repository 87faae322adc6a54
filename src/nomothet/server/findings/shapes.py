"""What a finding is, as the sheet shows it."""

from dataclasses import dataclass, field

from nomothet.core.expectation import Held
from nomothet.server.findings.gathered import Sure


@dataclass(frozen=True)
class FindingDot:
    """One test beside a band; `better` is its change in %, where more is better."""

    test: int
    name: str
    better: float
    told: str


@dataclass(frozen=True)
class FindingBand:
    """A configuration against another, as a mark where better is to the right; its ends are None without noise."""

    column: int
    label: str
    better: float
    low: float | None
    high: float | None
    told: str
    interval: str
    verdict: str
    dots: list[FindingDot]


@dataclass(frozen=True)
class FindingAxis:
    """An axis: what it shows, in which unit; `log` for equal ratios, `zero` where it begins at 0.

    With `names` its places are 0, 1, 2 … and are called so.
    """

    label: str
    unit: str
    log: bool = False
    zero: bool = False
    names: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class CurvePoint:
    x: float
    y: float
    low: float | None
    high: float | None
    told: str
    # The configuration that it stands for; 0 for none.
    column: int = 0


@dataclass(frozen=True)
class FindingCurve:
    """A series of points. `joined` by a line, `dotted` for what is computed and not measured, `faint` for the rest."""

    label: str
    column: int
    points: list[CurvePoint]
    joined: bool = True
    dotted: bool = False
    faint: bool = False
    marks: bool = True
    # Whether each point is marked by the seal of its configuration.
    seals: bool = False


@dataclass(frozen=True)
class FindingRule:
    """A straight line across a chart, at a value of one of its axes, with its interval where it has one."""

    across: str
    at: float
    words: str
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class CurvesShape:
    """Curves over two axes; `shaded` is a band of y that counts as level."""

    x: FindingAxis
    y: FindingAxis
    curves: list[FindingCurve]
    rules: list[FindingRule]
    shaded: list[float]
    caption: str


@dataclass(frozen=True)
class ExtentMark:
    """A further mark on a row, told by its words; `open` ones are drawn hollow."""

    value: float
    words: str
    open: bool = True


@dataclass(frozen=True)
class ExtentRow:
    """A row with a value in the chart's unit, its interval where it has one, and further marks."""

    column: int
    label: str
    value: float | None
    low: float | None
    high: float | None
    told: str
    marks: list[ExtentMark]


@dataclass(frozen=True)
class ExtentsShape:
    """Rows on one axis, each a bar from 0 to its value where the axis begins at 0."""

    axis: FindingAxis
    rows: list[ExtentRow]
    rules: list[FindingRule]
    caption: str


@dataclass(frozen=True)
class CellRef:
    """A cell that a finding rests on; it is opened in the matrix."""

    test: int
    column: int
    metric: str


@dataclass(frozen=True)
class OwedCell:
    """Passes that a cell lacks."""

    test: int
    column: int
    passes: int


@dataclass(frozen=True)
class ActShape:
    """What would mend it: "owe" puts passes on the docket, "advice" is for people, "brief" leads to the plan."""

    kind: str
    words: str
    passes: int
    hours: float
    cells: list[OwedCell]


@dataclass(frozen=True)
class ExpectedShape:
    """An expectation that a finding speaks to, with what came of it."""

    words: str
    held: Held


@dataclass(frozen=True)
class PinShape:
    """That a finding is pinned: its place, a note, what it said then, and what changed since somebody looked."""

    id: int
    position: int
    # What a text names the finding by; it stays, however the pins are ordered.
    number: int
    note: str
    said: str
    by: str
    # Empty where nothing changed, or somebody has seen it.
    changed: str


@dataclass(frozen=True)
class FindingShape:
    """One thing that the review says.

    `key` names it, so that a link opens it. It is drawn as bands, curves or extents; `heads` and `lines` say the same
    as a table.
    """

    key: str
    kind: str
    kind_words: str
    sentence: str
    # The amount and the verdict by themselves, for what compares a finding with what it said before.
    told: str
    verdict: str
    sure: Sure
    columns: list[int]
    tests: list[int]
    cells: list[CellRef]
    caveats: list[str]
    left_out: list[str]
    # The section of the method.
    section: str
    margin_pct: float | None
    bands: list[FindingBand]
    curves: CurvesShape | None
    extents: ExtentsShape | None
    heads: list[str]
    lines: list[list[str]]
    acts: list[ActShape]
    expected: list[ExpectedShape]
    # The configurations that it says are enough, or meet every target.
    enough: list[int]
    # What "draw another" offers for it; and the finding that was drawn by somebody, with who did.
    offers: list[str]
    drawn: int | None
    drawn_by: str
    pin: PinShape | None
