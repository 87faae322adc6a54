"""Section 26 of the method: results of several reviews and days beside one another."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Literal

from nomothet.core.comparable import Difference, comparability
from nomothet.core.compare import Direction
from nomothet.core.compare_placed import PlacedComparison, PlacedComparisons
from nomothet.core.errors import BadSample
from nomothet.core.noise import Noise
from nomothet.core.notes import Note, note
from nomothet.core.passes import Scale
from nomothet.core.rounds import Placed

Place = Literal["reference", "beside", "with a warning", "not beside"]
# Two rates that are held within this of each other show their cap and no machine.
SAME_CAP = 0.01
_BESIDE = ("beside", "with a warning")


@dataclass(frozen=True)
class Result:
    """A cell of a review as it stands beside others.

    `varied` are the entries of its fingerprint that its configuration chooses: they may differ, as they are what is
    compared. `apart` says why it can stand beside nothing, `doubts` what is to be said wherever it stands.
    """

    values: Sequence[Placed]
    fingerprint: Mapping[str, Any] = field(default_factory=dict)
    varied: frozenset[str] = frozenset()
    apart: tuple[Note, ...] = ()
    doubts: tuple[Note, ...] = ()
    # Of a low its definition, of a figure that rests on power where that was told; empty where it has none.
    low_definition: str = ""
    power_source: str = ""
    # The rate at which most of its passes were held; None where they were not.
    held: float | None = None
    # Extra standard error of its centre from readings that are not exact (section 18).
    spread: float = 0.0


@dataclass(frozen=True)
class Standing:
    """Where a result stands against the reference, why, and what differs; compared unless it is not beside."""

    place: Place
    reasons: tuple[Note, ...]
    differences: tuple[Difference, ...]
    comparison: PlacedComparison | None


def standings(
    results: Mapping[str, Result],
    reference: str,
    *,
    direction: Direction = "higher",
    scale: Scale = "ratio",
    margin: float | None,
    borrowed: Noise | None = None,
) -> dict[str, Standing]:
    """Every result against the reference.

    The noise is pooled over the reference and all that may stand beside it, with a warning or without; the level is
    Šidák's over these.

    Parameters
    ----------
    results : mapping of str to Result
        The reference among them.
    margin, borrowed
        As `compare_with_baseline` takes them.

    Raises
    ------
    BadSample
        When there is no such reference, or a value cannot be compared.

    Examples
    --------
    >>> def of(*values, **told):
    ...     return Result([Placed(value) for value in values], {"workload": "w", "version": "1", **told})
    >>> found = standings(
    ...     {"a": of(100, 102, 98), "b": of(110, 111, 109, driver="2"), "c": of(90, 91, version="2")}, "a", margin=0.03
    ... )
    >>> found["b"].place, found["c"].place, found["b"].comparison.comparison.verdict
    ('beside', 'not beside', 'ahead')
    """
    found = Standings(results, reference, direction=direction, scale=scale, margin=margin, borrowed=borrowed)
    return {name: found.of(name) for name in found.placed}


class Standings:
    """The same, of which each comparison is worked out when it is asked for.

    Raises
    ------
    BadSample
        When there is no such reference.
    """

    def __init__(
        self,
        results: Mapping[str, Result],
        reference: str,
        *,
        direction: Direction,
        scale: Scale,
        margin: float | None,
        borrowed: Noise | None = None,
    ) -> None:
        if reference not in results:
            raise BadSample(f"there is no result {reference!r} to stand against")
        base = results[reference]
        self._results, self._reference = results, reference
        self._told: dict[str, Any] = {"direction": direction, "scale": scale, "margin": margin, "borrowed": borrowed}
        # Where each stands, the reference first, not compared yet.
        self.placed = {reference: Standing("reference", base.apart + base.doubts, (), None)}
        for name, one in results.items():
            if name != reference:
                self.placed[name] = _place(one, base)

    def of(self, name: str) -> Standing:
        """Where one stands, compared where it is beside.

        Raises
        ------
        BadSample
            When a value cannot be compared.
        """
        stands = self.placed[name]
        if self._compared is None or stands.place not in _BESIDE:
            return stands
        return replace(stands, comparison=self._compared.of(name))

    @cached_property
    def _compared(self) -> PlacedComparisons | None:
        base = self._results[self._reference]
        beside = [name for name, one in self.placed.items() if one.place in _BESIDE]
        if not beside or not base.values or base.apart:
            return None
        cells = {name: self._results[name] for name in (self._reference, *beside)}
        return PlacedComparisons(
            # Rounds belong to one review; between reviews only sessions say what passes share.
            {name: [_without_round(v) for v in one.values] for name, one in cells.items()},
            self._reference,
            spreads={name: one.spread for name, one in cells.items() if one.spread},
            **self._told,
        )


def _without_round(one: Placed) -> Placed:
    return one if one.round is None else Placed(one.value, None, one.session)


def _place(one: Result, base: Result) -> Standing:
    against = [*one.apart, *(_unlike(one, base))]
    alike = comparability(base.fingerprint, one.fingerprint, factors=base.varied | one.varied)
    differences = tuple(d for d in alike.differences if not d.factor and d.severity != "notes")
    if against or alike.verdict == "blocked":
        blocks = tuple(d for d in differences if d.severity == "blocks")
        return Standing("not beside", tuple(against), blocks, None)
    warns = bool(differences) or bool(one.doubts)
    return Standing("with a warning" if warns else "beside", one.doubts, differences, None)


def _unlike(one: Result, base: Result) -> list[Note]:
    """What two results do not have in common although they were run alike."""
    found = []
    if one.low_definition != base.low_definition:
        found.append(note("standing_low", own=one.low_definition, other=base.low_definition))
    if one.power_source != base.power_source:
        found.append(note("standing_power", own=one.power_source, other=base.power_source))
    if one.held and base.held and abs(one.held / base.held - 1) < SAME_CAP:
        found.append(note("held_at", fps=one.held))
    if not one.values:
        found.append(note("standing_no_pass"))
    return found
