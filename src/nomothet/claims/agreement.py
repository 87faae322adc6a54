"""Whether a clause and a comparison say the same: an amount within the interval, a direction by the verdict."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from nomothet.claims.amounts import Amount, Quantity
from nomothet.claims.facts import Facts, Found, Statement, Value
from nomothet.claims.reading import Clause, Said

Answer = Literal["agrees", "differs", "open"]
# What people mean by how fast something is.
SPEED = ("average", "time", "score")
_WORST = {"agrees": 0, "open": 1, "differs": 2}


@dataclass(frozen=True)
class Held:
    """What came of holding a clause against a comparison or a figure."""

    answer: Answer
    statement: Statement | None = None


def worst(answers: Sequence[Held]) -> Held:
    """The least good of several answers."""
    return max(answers, key=lambda one: _WORST[one.answer])


def candidates(clause: Clause, facts: Facts, found: Found | None = None) -> list[Statement]:
    """The comparisons that a clause can be about: of its configurations, in its tests, by its metric."""
    known = list(found.statements) if found else [*facts.statements, *_derived(clause, facts)]
    own, base = clause.own, clause.base
    if own is not None and own == facts.baseline and base is None and not found:
        return []
    if own is not None:
        against = [base] if base is not None else [facts.baseline] if not found else None
        seen = [*(one for one in known if one.own == own), *(_turned(one) for one in known if one.base == own)]
        sided = [one for one in seen if against is None or one.base in against]
    else:
        sided = known
    if clause.tests:
        sided = [one for one in sided if one.test in clause.tests] or [
            one for one in sided if found and one.test is None and set(clause.tests) <= set(found.tests)
        ]
    elif clause.over_all:
        sided = [one for one in sided if one.test is None]
    elif clause.each_test:
        sided = [one for one in sided if one.test is not None]
    if clause.role == "average":
        return [one for one in sided if one.role in SPEED]
    if clause.role:
        return [one for one in sided if one.role == clause.role]
    return [one for one in sided if one.role in SPEED] or (sided if found else [])


_BETTER = {"ahead": 1, "slightly ahead": 1, "slightly behind": -1, "behind": -1}
_TURNED = {
    "ahead": "behind", "slightly ahead": "slightly behind", "slightly behind": "slightly ahead", "behind": "ahead",
}  # fmt: skip


def hold(clause: Clause, one: Statement) -> Held:
    """A clause against one comparison."""
    answers: list[Answer] = []
    for amount in clause.amounts:
        answers.append(_amount(amount, _nearest(clause.said, amount.at), one))
    for quantity in clause.quantities:
        if quantity.unit == one.unit:
            answers.append(_difference(quantity, _nearest(clause.said, quantity.at), one))
    if clause.level:
        answers.append(_level(one, at_least=clause.at_least_level))
    if not answers:
        answers += [_direction(said, one) for said in clause.said]
    if clause.enough is not None and not answers:
        answers.append(_level(one, at_least=True, denied=not clause.enough))
    if not answers:
        answers.append("agrees")
    told = max(answers, key=lambda answer: _WORST[answer])
    if told == "agrees" and one.unsettled:
        told = "open"
    if told == "differs" and one.unsettled and not clause.amounts:
        told = "open"
    return Held(told, one)


def hold_value(quantity: Quantity, one: Value) -> Answer:
    """A quantity against the figure of a cell."""
    low, high = (one.value, one.value) if one.low is None or one.high is None else (one.low, one.high)
    return _within(quantity.value, quantity.spare, quantity.bound, low, high, one.value)


def _nearest(said: Sequence[Said], at: int) -> Said | None:
    """The word of direction that an amount goes with: the nearest one."""
    return min(said, key=lambda one: abs(one.at - at), default=None)


def _within(value: float, spare: float, bound: str, low: float, high: float, centre: float) -> Answer:
    if bound == "least":
        return "agrees" if low >= value - spare else "open" if centre >= value - spare else "differs"
    if bound == "most":
        return "agrees" if centre <= value + spare else "differs"
    # A centre that rounds to what is said agrees too, however narrow its interval.
    rounds = abs(centre - value) <= max(spare, 0.005 * abs(centre))
    return "agrees" if rounds or low - spare <= value <= high + spare else "differs"


def _factors(one: Statement, *, speed: bool) -> tuple[float, float, float]:
    """A comparison as a factor with its ends; of time, as speed where speed is spoken of."""
    low = one.change if one.low is None else one.low
    high = one.change if one.high is None else one.high
    plain = (1 + one.change / 100, 1 + low / 100, 1 + high / 100)
    if speed and one.better < 0 and min(plain) > 0:
        return 1 / plain[0], 1 / plain[2], 1 / plain[1]
    return plain


def _amount(amount: Amount, said: Said | None, one: Statement) -> Answer:
    if one.unit != "%":
        return "agrees"
    direction = said.direction if said else None
    centre, low, high = _factors(one, speed=bool(direction and direction.speed))
    if amount.kind == "times":
        return _within(amount.low, amount.spare, amount.bound, low, high, centre)
    if amount.kind == "share":
        return _within(amount.low, amount.spare, amount.bound, 100 * low, 100 * high, 100 * centre)
    change, ends = 100 * (centre - 1), (100 * (low - 1), 100 * (high - 1))
    if amount.signed:
        return _within(amount.low, amount.spare, "", *ends, change)
    if said is not None and not said.denied and not _same_way(said, one, change, ends):
        return "differs"
    small, large = sorted((abs(ends[0]), abs(ends[1])))
    if ends[0] <= 0 <= ends[1]:
        small = 0.0
    if amount.high != amount.low:
        within = amount.low - amount.spare <= abs(change) <= amount.high + amount.spare
        return "agrees" if within else "differs"
    return _within(amount.low, amount.spare, amount.bound, small, large, abs(change))


def _same_way(said: Said, one: Statement, change: float, ends: tuple[float, float]) -> bool:
    wanted = said.direction.sign if said.direction.way == "more" or said.direction.speed else (
        said.direction.sign * (one.better or 1)
    )  # fmt: skip
    return wanted * change > 0 or ends[0] <= 0 <= ends[1]


def _difference(quantity: Quantity, said: Said | None, one: Statement) -> Answer:
    low = one.change if one.low is None else one.low
    high = one.change if one.high is None else one.high
    if said is not None and not said.denied and not _same_way(said, one, one.change, (low, high)):
        return "differs"
    small, large = sorted((abs(low), abs(high)))
    return _within(quantity.value, quantity.spare, quantity.bound, small, large, abs(one.change))


def _level(one: Statement, *, at_least: bool, denied: bool = False) -> Answer:
    if one.unsettled:
        return "open"
    holds = one.verdict == "level" or (at_least and _BETTER.get(one.verdict) == 1)
    return "agrees" if holds != denied else "differs"


def _direction(said: Said, one: Statement) -> Answer:
    """A word of direction by the verdict; a denied one agrees with level and with the other way."""
    if one.unsettled:
        return "open"
    if one.verdict == "level":
        return "agrees" if said.denied else "differs"
    better = _better(one)
    way = better if said.direction.way == "better" else better * (one.better or 1)
    if not way:
        return "open"
    return "agrees" if (way == said.direction.sign) != said.denied else "differs"


def _better(one: Statement) -> int:
    """Whether a comparison is for the better (1) or the worse (−1); 0 where that is not told.

    Where neither more nor less is better, 1 is more. What has no margin is told by an interval without 0.
    """
    if one.verdict in _BETTER:
        return _BETTER[one.verdict]
    if one.low is None or one.high is None or one.low <= 0 <= one.high:
        return 0
    return (1 if one.change > 0 else -1) * (one.better or 1)


def _turned(one: Statement) -> Statement:
    """The same comparison seen from the other side."""

    def other(change: float | None) -> float | None:
        if change is None:
            return None
        return -change if one.unit != "%" else 100 * (1 / (1 + change / 100) - 1) if change > -100 else None

    low, high = other(one.high), other(one.low)
    verdict = _TURNED.get(one.verdict, one.verdict)
    return replace(
        one, own=one.base, base=one.own, change=other(one.change) or 0.0, low=low, high=high, verdict=verdict
    )


def _derived(clause: Clause, facts: Facts) -> list[Statement]:
    """Two configurations by way of the one that both were compared with; an interval as wide as both allow.

    What comes of it is clearly apart, or it decides nothing.
    """
    own, base = clause.own, clause.base
    if own is None or base is None or facts.baseline in (own, base):
        return []
    if any({one.own, one.base} == {own, base} for one in facts.statements):
        return []
    others = {(one.base, one.test, one.role): one for one in facts.statements if one.own == base}
    made = []
    for a in facts.statements:
        b = others.get((a.base, a.test, a.role)) if a.own == own else None
        if b is None or a.unit != "%" or None in (a.low, a.high, b.low, b.high):
            continue
        change, low, high = (
            100 * ((1 + x / 100) / (1 + y / 100) - 1)  # type: ignore[operator]
            for x, y in ((a.change, b.change), (a.low, b.high), (a.high, b.low))
        )
        apart = low > facts.margin_pct or high < -facts.margin_pct
        verdict = ("ahead" if (low > 0) == (a.better >= 0) else "behind") if apart else "undecided"
        made.append(replace(a, base=base, change=change, low=low, high=high, verdict=verdict,
                            unsettled="" if apart else "not compared", passes=None))  # fmt: skip
    return made
