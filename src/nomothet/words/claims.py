"""What is said of a sentence that was held against the data."""

from collections.abc import Callable, Mapping

from nomothet.words.lists import counted
from nomothet.words.numbers import compact, difference_unit, figure, signed

# What each answer is called.
STATUS_WORDS: Mapping[str, str] = {
    "backed": "backed",
    "contradicted": "the data says otherwise",
    "further": "goes further than the data",
    "unsettled": "not settled",
    "sourceless": "no finding behind it",
    "judgement": "a judgement",
    "nothing": "nothing to check",
}
_WHY = {
    "undecided": "it rests on what is undecided",
    "noise unknown": "the noise is unknown",
    "thin": "it rests on a thin tail",
    "not compared": "the two were not compared directly",
}


def backed_words(numbers: list[int]) -> str:
    """By which findings a sentence is backed.

    >>> backed_words([1, 2])
    'backed by 1 and 2'
    """
    return "backed by " + " and ".join(map(str, numbers)) if numbers else "backed"


def _universal(word: str) -> str:
    return f"“{word}” goes beyond what was measured"


def _promise(word: str) -> str:
    return f"“{word}” promises what nobody has measured"


def _elsewhere(name: str) -> str:
    return f"{name} is not in this review"


def _resolution(resolution: str) -> str:
    return f"{resolution} was not measured"


def _level(value: float, unit: str, name: str, least: float, most: float) -> str:
    measured = f"{compact(least)} {unit}" if least == most else f"{compact(least)} to {compact(most)} {unit}"
    return f"{compact(value)} {unit} was not measured ({name}: {measured})"


def _cause(cause: str) -> str:
    return f"no finding and no tested explanation says that the cause is “{cause}”"


def _finding_says(number: int, sentence: str) -> str:
    # One that nobody has pinned has no number yet.
    return f"finding {number} says: {sentence}" if number > 0 else f"found: {sentence}"


def _data_says(
    own: str, base: str, test: str, change: float, low: float | None, high: float | None, unit: str, verdict: str
) -> str:
    ends = "" if low is None or high is None else f" ({signed(low)} to {signed(high)})"
    told = f"{signed(change)} {difference_unit(unit)}{ends}, {verdict}"
    return f"measured: {own} against {base}{f', {test}' if test else ''}: {told}"


def _not_settled(why: str, passes: int | None) -> str:
    return _WHY.get(why, why) + (f"; {counted(passes, 'more pass', 'more passes')} would settle it" if passes else "")


def _no_source(missed: bool) -> str:
    return "the finding that it names is about something else" if missed else "put the finding in that says so"


def _figure_is(value: float, unit: str) -> str:
    return f"measured: {figure(value)} {unit}"


def _price(amount: float) -> str:
    return f"no price on record is {compact(amount)} €"


def _price_is(amount: float, currency: str) -> str:
    return f"on record: {compact(amount)} {currency}"


REMARKS: Mapping[str, str] = {
    "warns": "with a difference that nobody declared",
    "one session": "measured in one session each",
}

SENTENCES: Mapping[str, Callable[..., str]] = {
    "claim_universal": _universal,
    "claim_promise": _promise,
    "claim_elsewhere": _elsewhere,
    "claim_resolution": _resolution,
    "claim_level": _level,
    "claim_cause": _cause,
    "claim_finding_says": _finding_says,
    "claim_data_says": _data_says,
    "claim_not_settled": _not_settled,
    "claim_no_source": _no_source,
    "claim_offer": _no_source,
    "claim_figure_agrees": lambda: "the figure is as measured; name a finding that carries it",
    "claim_figure_is": _figure_is,
    "claim_price": _price,
    "claim_price_is": _price_is,
}
