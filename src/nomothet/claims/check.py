"""One sentence against the facts: backed, contradicted, further than the data, not settled, without a source."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from nomothet.claims.agreement import SPEED, Held, candidates, hold, hold_value, worst
from nomothet.claims.amounts import amounts_of, quantities_of
from nomothet.claims.facts import Facts, Found, Statement
from nomothet.claims.reading import Clause, clauses_of
from nomothet.core.notes import Note, note

Status = Literal["backed", "contradicted", "further", "unsettled", "sourceless", "judgement", "nothing"]
# What is worse hides what is better: of several clauses the worst speaks for the sentence.
_RANK: dict[Status, int] = {
    "nothing": 0, "judgement": 1, "backed": 2, "sourceless": 3, "unsettled": 4, "further": 5, "contradicted": 6,
}  # fmt: skip
_ELSEWHERE = ("claim_elsewhere", "claim_resolution", "claim_level")
_CONTENT = re.compile(r"[a-z]{4,}")


@dataclass(frozen=True)
class Checked:
    """What came of a sentence.

    `backed_by` are the findings that carry it; `offers` those that would. `instead` is the sentence with the figure
    of the data, where one figure is wrong. `passes` would settle what is open: the comparisons and findings in `open`
    and `open_findings`.
    """

    status: Status
    notes: tuple[Note, ...] = ()
    backed_by: tuple[int, ...] = ()
    offers: tuple[int, ...] = ()
    instead: str = ""
    passes: int | None = None
    open: tuple[Statement, ...] = ()
    open_findings: tuple[int, ...] = ()


@dataclass(frozen=True)
class _Answer:
    status: Status
    note: Note | None = None
    backed_by: tuple[int, ...] = ()
    offers: tuple[int, ...] = ()
    instead: tuple[int, str] | None = None
    passes: int | None = None
    open: Statement | None = None
    open_finding: int | None = None


def check(sentence: str, facts: Facts, *, judged: bool = False) -> Checked:
    """Hold a sentence against the facts.

    Parameters
    ----------
    judged : bool
        Whether somebody has marked it as a judgement.

    Examples
    --------
    >>> from nomothet.claims.facts import Configuration, Facts
    >>> facts = Facts((Configuration(1, "28 W"), Configuration(2, "35 W", is_baseline=True)), ())
    >>> check("We cleaned the fans.", facts).status, check("28 W is 4 % slower.", facts).status
    ('nothing', 'sourceless')
    """
    if judged:
        return Checked("judgement")
    clauses = clauses_of(sentence, facts)
    answers = [answer for clause in clauses for answer in _answers(clause, facts)]
    if not answers:
        return Checked("nothing")
    status = max((one.status for one in answers), key=_RANK.__getitem__)
    speaking = [one for one in answers if one.status == status]
    fixes = [one.instead for one in speaking if one.instead]
    passes = [one.passes for one in speaking if one.passes]
    return Checked(
        status,
        tuple(dict.fromkeys(_hashable(one.note) for one in speaking if one.note)),
        tuple(dict.fromkeys(number for one in answers for number in one.backed_by)),
        tuple(dict.fromkeys(number for one in speaking for number in one.offers)),
        _put_in(sentence, fixes[0]) if len(fixes) == 1 else "",
        max(passes, default=None),
        tuple(dict.fromkeys(one.open for one in speaking if one.open)),
        tuple(dict.fromkeys(one.open_finding for one in speaking if one.open_finding is not None)),
    )


def _hashable(one: Note) -> Note:
    return Note(one.code, _Values(one.values))


class _Values(dict[str, object]):
    """Values of a note that can be told from others."""

    def __hash__(self) -> int:  # type: ignore[override]
        return hash(repr(sorted(self.items())))


def _put_in(sentence: str, fix: tuple[int, str]) -> str:
    at, words = fix
    found = re.compile(r"[−-]?\d+(?:[.,]\d+)?\s*(?:%|[^\W\d]\S*)?").match(sentence, at)
    return sentence[:at] + words + sentence[found.end() :] if found else ""


def _answers(clause: Clause, facts: Facts) -> list[_Answer]:
    answers = [_Answer("further", one) for one in clause.beyond]
    cause = _cause(clause, facts)
    if cause is not None:
        answers.append(cause)
    # What was not measured cannot be held against what was.
    if not clause.claims or any(one.code in _ELSEWHERE for one in clause.beyond):
        return answers
    held = _held(clause, facts)
    return answers + ([held] if held else [])


def _cause(clause: Clause, facts: Facts) -> _Answer | None:
    """A cause stands on a finding that has measured it, or on an explanation that was tested."""
    if not clause.cause or not (clause.claims or clause.mentioned):
        return None
    said = set(_CONTENT.findall(clause.cause.lower()))
    for number in clause.marks:
        found = facts.numbers.get(number)
        if found and said & {word.lower() for word in found.causes}:
            return _Answer("backed", backed_by=(number,))
    if any(len(said & set(_CONTENT.findall(words.lower()))) >= 2 for words in facts.explained):
        return None
    return _Answer("further", note("claim_cause", cause=clause.cause))


def _held(clause: Clause, facts: Facts) -> _Answer | None:
    """A clause against the findings that it names, or against all that was measured where they are about something
    else."""
    named = [facts.numbers[number] for number in clause.marks if number in facts.numbers]
    told = [(found, answer) for found in named if (answer := _by_finding(clause, facts, found)) is not None]
    if named and not told and not clause.mentioned:
        # What it was taken to be about comes from the clause before; its finding may be about something else.
        alone = replace(clause, own=None, base=None, tests=(), over_all=False)
        told = [(found, answer) for found in named if (answer := _by_finding(alone, facts, found)) is not None]
    if told:
        backing = tuple(found.number for found, one in told if one.answer == "agrees")
        if backing:
            return _Answer("backed", backed_by=backing)
        found, one = max(told, key=lambda pair: {"agrees": 0, "open": 1, "differs": 2}[pair[1].answer])
        if one.answer == "open":
            return _not_settled(found, one.statement)
        return _Answer(
            "contradicted",
            note("claim_finding_says", number=found.number, sentence=found.sentence),
            instead=_instead(clause, one.statement),
        )
    return _by_data(clause, facts, missed=bool(named))


def _not_settled(found: Found | None, one: Statement | None) -> _Answer:
    why = (one.unsettled if one else "") or (found.unsettled if found else "") or "undecided"
    passes = (one.passes if one else None) or (found.passes if found else None)
    return _Answer(
        "unsettled",
        note("claim_not_settled", why=why, passes=passes),
        passes=passes,
        open=one,
        open_finding=found.number if found else None,
    )


def _by_finding(clause: Clause, facts: Facts, found: Found) -> Held | None:
    """A clause against a finding; None where the finding is about something else."""
    about = {*found.columns, facts.baseline}
    if (
        clause.own is not None
        and found.columns
        and clause.own not in found.columns
        and not set(clause.mentioned) & about
    ):
        return None
    if clause.open:
        return Held("agrees" if found.unsettled else "differs")
    if clause.not_run:
        return Held("agrees" if found.kind == "blind" and clause.own in (None, *found.columns) else "differs")
    if clause.enough is not None and found.enough and clause.own is not None:
        if clause.own not in found.columns:
            return None
        return Held("agrees" if (clause.own in found.enough) == clause.enough else "differs")
    answers = [Held(answer) for answer in _by_texts(clause, found)]
    statements = candidates(clause, facts, found)
    if statements and (
        clause.amounts or clause.said or clause.level or clause.enough is not None or _same_unit(clause, statements)
    ):
        held = [hold(clause, one) for one in statements]
        answers.append(worst(held) if clause.each_test else min(held, key=lambda one: _ORDER[one.answer]))
    elif not answers:
        if found.statements or not (clause.own is None or clause.own in found.columns):
            return None
        answers.append(Held("agrees"))
    told = worst(answers)
    return Held("open", told.statement) if told.answer == "agrees" and found.unsettled else told


_ORDER = {"agrees": 0, "open": 1, "differs": 2}


def _same_unit(clause: Clause, statements: Sequence[Statement]) -> bool:
    return any(quantity.unit == one.unit for quantity in clause.quantities for one in statements)


def _by_texts(clause: Clause, found: Found) -> list[Literal["agrees", "differs"]]:
    """Numbers against the numbers of the same unit that a finding tells; of others it says nothing."""
    told = " · ".join((found.sentence, found.told, *found.texts))
    answers: list[Literal["agrees", "differs"]] = []
    for quantity in clause.quantities:
        if any(one.unit == quantity.unit for one in found.statements):
            continue
        known = [one for one in quantities_of(told) if one.unit == quantity.unit]
        if known:
            near = any(abs(one.value - quantity.value) <= quantity.spare + one.spare for one in known)
            answers.append("agrees" if near else "differs")
    if not found.statements:
        percents = [one for one in amounts_of(told) if one.kind == "change"]
        for amount in clause.amounts:
            if amount.kind == "change" and percents:
                near = any(
                    abs(one.low) - one.spare - amount.spare
                    <= abs(amount.low)
                    <= abs(one.high) + one.spare + amount.spare
                    for one in percents
                )
                answers.append("agrees" if near else "differs")
    return answers


def _by_data(clause: Clause, facts: Facts, *, missed: bool) -> _Answer | None:
    """A clause that names no finding about it: what the data says otherwise is said, what it bears out is offered."""
    values = _by_values(clause, facts)
    if values is not None:
        return values
    statements = candidates(clause, facts)
    if clause.own is not None and statements:
        held = [hold(clause, one) for one in _most_telling(clause, statements)]
        told = worst(held) if clause.each_test else min(held, key=lambda one: _ORDER[one.answer])
        if told.answer == "differs":
            return _Answer(
                "contradicted",
                _data_says(told.statement, facts),
                offers=_offers(told.statement, facts),
                instead=_instead(clause, told.statement),
            )
        if told.answer == "open":
            return _not_settled(None, told.statement)
        return _Answer("sourceless", note("claim_offer", missed=missed), offers=_offers(told.statement, facts))
    by_enough = _enough_known(clause, facts)
    if by_enough is not None:
        return by_enough
    if not (clause.amounts or clause.quantities or clause.marks or clause.own is not None):
        return None
    return _Answer("sourceless", note("claim_no_source", missed=missed))


def _enough_known(clause: Clause, facts: Facts) -> _Answer | None:
    if clause.enough is None or clause.own is None:
        return None
    for found in facts.findings:
        if found.enough and clause.own in found.columns:
            if (clause.own in found.enough) == clause.enough:
                return _Answer("sourceless", note("claim_offer", missed=False), offers=(found.number,))
            return _Answer("contradicted", note("claim_finding_says", number=found.number, sentence=found.sentence))
    return None


def _most_telling(clause: Clause, statements: Sequence[Statement]) -> Sequence[Statement]:
    """Where no test is named, what is found over all tests speaks before single ones."""
    if clause.tests or clause.each_test:
        return statements
    return [one for one in statements if one.test is None] or statements


def _by_values(clause: Clause, facts: Facts) -> _Answer | None:
    """Figures with a unit against the cells that have one in it; prices against those on record."""
    for quantity in clause.quantities:
        if quantity.unit == "EUR":
            known = [one for one in facts.prices if one.column == clause.own and one.currency == "EUR"]
            if not known:
                return _Answer("further", note("claim_price", amount=quantity.value))
            if any(abs(one.amount - quantity.value) <= max(quantity.spare, 0.005 * one.amount) for one in known):
                return _Answer("sourceless", note("claim_no_source", missed=False))
            return _Answer("contradicted", note("claim_price_is", amount=known[0].amount, currency=known[0].currency))
        # A difference in a unit is a comparison.
        if any(one.unit == quantity.unit for one in candidates(clause, facts)) and clause.said:
            continue
        cells = [
            one
            for one in facts.values
            if one.unit == quantity.unit
            and (clause.own is None or one.column == clause.own)
            and (not clause.tests or one.test in clause.tests)
            and (clause.role in ("", one.role) or (clause.role in SPEED and one.role in SPEED))
        ]
        if not cells:
            continue
        held = [hold_value(quantity, one) for one in cells]
        if "agrees" in held:
            return _Answer("sourceless", note("claim_figure_agrees"))
        if clause.own is not None and (clause.tests or len({one.value for one in cells}) == 1):
            return _Answer("contradicted", note("claim_figure_is", value=cells[0].value, unit=cells[0].unit))
    return None


def _offers(one: Statement | None, facts: Facts) -> tuple[int, ...]:
    return tuple(found.number for found in facts.findings if one in found.statements)[:3]


def _data_says(one: Statement | None, facts: Facts) -> Note:
    assert one is not None
    labels = {configuration.key: configuration.label for configuration in facts.configurations}
    names = {test.key: test.name for test in facts.tests}
    return note(
        "claim_data_says", own=labels.get(one.own, ""), base=labels.get(one.base, ""),
        test=names.get(one.test, "") if one.test is not None else "", change=one.change, low=one.low, high=one.high,
        unit=one.unit, verdict=one.verdict,
    )  # fmt: skip


def _instead(clause: Clause, one: Statement | None) -> tuple[int, str] | None:
    """Where the one wrong amount stands, and what it should be."""
    amounts = [amount for amount in clause.amounts if amount.kind == "change"]
    if one is None or one.unit != "%" or len(amounts) != 1 or len(clause.amounts) != 1:
        return None
    digits = re.search(r"[−-]?\d", clause.text[amounts[0].at :])
    if not digits:
        return None
    size = one.change if amounts[0].signed else abs(one.change)
    return clause.at + amounts[0].at + digits.start(), f"{size:.1f} %".replace("-", "−")
