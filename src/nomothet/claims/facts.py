"""What sentences are held against: what was compared, what was found, and what the team knows of besides."""

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Configuration:
    """A configuration by its label, the letter of its seal, and its system."""

    key: int
    label: str
    letter: str = ""
    system: str = ""
    is_baseline: bool = False


@dataclass(frozen=True)
class MeasuredTest:
    """A test by the name of its workload and what its settings say."""

    key: int
    name: str
    settings: tuple[str, ...] = ()


@dataclass(frozen=True)
class Level:
    """The numbers that a factor, or a setting of the tests, was measured at, in one unit."""

    name: str
    unit: str
    values: tuple[float, ...]


@dataclass(frozen=True)
class Statement:
    """One comparison: a configuration against another in a test, or over all tests where `test` is None.

    `change` and its ends are the plain change of the value, in % or in the unit given; `better` says how much of it is
    for the better: 1 where more is better, −1 where less is, 0 where neither is. `unsettled` is why it decides
    nothing: undecided, noise unknown or thin; `passes` would settle it.
    """

    own: int
    base: int
    test: int | None
    role: str
    change: float
    low: float | None
    high: float | None
    verdict: str
    better: int = 1
    unit: str = "%"
    unsettled: str = ""
    passes: int | None = None


@dataclass(frozen=True)
class Value:
    """The figure of a cell, with its interval where it has one."""

    column: int
    test: int
    role: str
    unit: str
    value: float
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class Found:
    """A finding that the text can name by its number.

    `texts` is all that it says in words and tables; `causes` are the words of a cause that was measured. `passes` would
    settle it where it is `unsettled`.
    """

    number: int
    kind: str
    columns: tuple[int, ...]
    tests: tuple[int, ...]
    sentence: str
    told: str = ""
    verdict: str = ""
    unsettled: str = ""
    passes: int | None = None
    statements: tuple[Statement, ...] = ()
    texts: tuple[str, ...] = ()
    causes: tuple[str, ...] = ()
    # The configuration that it says is enough, or meets every target.
    enough: tuple[int, ...] = ()
    # What is to be kept in mind of it: "warns" of an undeclared difference, "one session".
    remarks: tuple[str, ...] = ()


@dataclass(frozen=True)
class Price:
    """What a configuration costs, by one basis on one day."""

    column: int
    amount: float
    currency: str


@dataclass(frozen=True)
class Facts:
    """Everything that a sentence of a review is held against.

    `elsewhere` are names of workloads, machines and parts that the team knows and this review has not; `explained` are
    the words of explanations that were tested.
    """

    configurations: tuple[Configuration, ...]
    tests: tuple[MeasuredTest, ...]
    levels: tuple[Level, ...] = ()
    statements: tuple[Statement, ...] = ()
    values: tuple[Value, ...] = ()
    findings: tuple[Found, ...] = ()
    prices: tuple[Price, ...] = ()
    elsewhere: frozenset[str] = frozenset()
    explained: tuple[str, ...] = ()
    margin_pct: float = 3.0
    numbers: Mapping[int, Found] = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "numbers", {one.number: one for one in self.findings})

    @property
    def baseline(self) -> int | None:
        return next((one.key for one in self.configurations if one.is_baseline), None)
