"""Section 21 of the method: what differs between configurations, and which of it was meant to."""

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from nomothet.core.quantities import Value
from nomothet.core.settings import goes_with_system

Status = Literal["factor", "accepted", "undeclared"]


@dataclass(frozen=True)
class Aspect:
    """One thing in which configurations can differ.

    `parents` are the aspects that it is a part of, the nearest first: the capacity of a memory kit belongs to the kit
    and the kit to the system, and whoever declares the kit declares its capacity. `touches` names what it acts on,
    `opens` that changing it opens the machine.
    """

    key: str
    label: str
    unit: str = ""
    group: str = ""
    parents: tuple[str, ...] = ()
    touches: str = ""
    opens: bool = False


@dataclass(frozen=True)
class Row:
    """An aspect over the columns, None where nothing is known; `odd` are the columns without the usual value."""

    aspect: Aspect
    values: tuple[Value | None, ...]
    status: Status
    odd: tuple[int, ...]
    incomplete: bool


@dataclass(frozen=True)
class Table:
    """Rows that differ, and what is the same in every column."""

    rows: list[Row]
    constant: list[tuple[Aspect, Value]]


def difference_table(
    states: Sequence[Mapping[str, Value]],
    aspects: Mapping[str, Aspect],
    declared: Collection[str] = (),
    accepted: Collection[str] = (),
) -> Table:
    """Only what differs between the states, each difference with whether it was meant.

    A part's own attributes are rows of their own where they differ, so that a kit that is larger *and* faster shows
    both. They count as declared or accepted together with the part.

    Parameters
    ----------
    states : sequence of mapping of aspect key to value
        One per column.
    declared, accepted : collection of str
        Aspects that are factors of the review, and ones that differ with a caveat.

    Examples
    --------
    >>> table = difference_table([{"w": 35, "fan": 2}, {"w": 15, "fan": 3}], {}, declared=["w"])
    >>> [(row.aspect.key, row.status) for row in table.rows]
    [('w', 'factor'), ('fan', 'undeclared')]
    """
    rows: list[Row] = []
    constant: list[tuple[Aspect, Value]] = []
    for key in dict.fromkeys(key for state in states for key in state):
        aspect = aspects.get(key) or Aspect(key, key.replace("_", " "))
        values = tuple(state.get(key) for state in states)
        first = values[0]
        if all(value == first for value in values):
            if first is not None:
                constant.append((aspect, first))
            continue
        aspect = _with_system(aspect, values, declared)
        rows.append(Row(aspect, values, _status(aspect, declared, accepted), _odd(values), None in values))
    return Table(rows, constant)


def undeclared(table: Table) -> list[Row]:
    """The rows that nobody has declared or accepted; a part's attributes only where the part itself is no row."""
    found = [row for row in table.rows if row.status == "undeclared"]
    parents = {row.aspect.key for row in found}
    return [row for row in found if not parents & set(row.aspect.parents)]


def _with_system(aspect: Aspect, values: Sequence[Value | None], declared: Collection[str]) -> Aspect:
    """Where the machine is the factor, its settings go with it, and so does what only some machines have (16)."""
    if "system" not in declared or aspect.key == "system" or "system" in aspect.parents:
        return aspect
    if None in values or goes_with_system(aspect.key):
        return replace(aspect, parents=(*aspect.parents, "system"))
    return aspect


def _status(aspect: Aspect, declared: Collection[str], accepted: Collection[str]) -> Status:
    """What comes with a factor is declared with it, unless somebody has given it a caveat of its own."""
    if aspect.key in accepted and aspect.key not in declared:
        return "accepted"
    names = {aspect.key, *aspect.parents}
    if names & set(declared):
        return "factor"
    return "accepted" if names & set(accepted) else "undeclared"


def _odd(values: Sequence[Value | None]) -> tuple[int, ...]:
    """Columns without the usual value; the first column's value counts as usual where several are as frequent."""
    counts = Counter(repr(value) for value in values)
    usual = max(counts, key=lambda text: (counts[text], text == repr(values[0])))
    return tuple(at for at, value in enumerate(values) if repr(value) != usual)
