"""Amounts and quantities in a sentence: per cent, times, fractions, and numbers with a unit."""

import re
from dataclasses import dataclass
from typing import Literal

Kind = Literal["change", "share", "times"]
Bound = Literal["", "least", "most"]

# A number begins where no digit stands before it, so that a long row of digits is read once.
_NUMBER = r"(?<![\d.,])[−-]?\d{1,12}(?:[.,]\d{1,9})?"
_BEFORE = (
    r"(?P<bound>(?:by )?(?:more than|over|at least|no less than|well over|less than|under|below|at most|no more than"
    r"|up to|about|around|nearly|almost|roughly|some|approximately|close to)\s+)?"
)
_FRACTIONS = {
    "half": 1 / 2, "third": 1 / 3, "quarter": 1 / 4, "fifth": 1 / 5, "sixth": 1 / 6, "seventh": 1 / 7, "eighth": 1 / 8,
    "ninth": 1 / 9, "tenth": 1 / 10, "twentieth": 1 / 20,
}  # fmt: skip
_TIMES = {"twice": 2.0, "double": 2.0, "doubles": 2.0, "thrice": 3.0, "triples": 3.0, "halves": 0.5}
_PERCENT = re.compile(_BEFORE + rf"(?P<a>{_NUMBER})(?:\s*%?\s*(?:to|–)\s*(?P<b>{_NUMBER}))?\s*(?:%|per ?cent\b)", re.I)
_FRACTION = re.compile(
    _BEFORE + r"\b(?:(?:an?|one)\s+|(?P<count>two|three)\s+)?(?P<part>" + "|".join(_FRACTIONS) + r")s?\b", re.I
)
_MANY = re.compile(_BEFORE + rf"(?:(?P<a>{_NUMBER})\s*(?:×|times\b)|\b(?P<word>" + "|".join(_TIMES) + r")\b)", re.I)
_QUANTITY = re.compile(
    _BEFORE + rf"(?P<a>{_NUMBER})[\s-]?(?P<unit>fps|frames (?:a|per) second|W|watts?|°C|(?<=\s)K|kelvins?|degrees|dB"
    r"|decibels?|s|seconds?|min|minutes?|€|euros?|EUR|threads?|GB|TB|MHz|GHz|MT/s|cameras?)(?!\w)"
)
_UNITS = {
    "frames a second": "fps", "frames per second": "fps", "watt": "W", "watts": "W", "degrees": "°C", "k": "°C",
    "kelvin": "°C", "kelvins": "°C", "decibel": "dB", "decibels": "dB", "second": "s", "seconds": "s", "minute": "min",
    "minutes": "min", "euro": "EUR", "euros": "EUR", "€": "EUR", "thread": "threads", "camera": "cameras",
}  # fmt: skip
_INTERVAL = re.compile(r"\(\s*" + _NUMBER + r"\s*%?\s*(?:to|–)\s*" + _NUMBER + r"[^)]*\)")
# What remains of something: "keeps 98 %", "comes to 66 % of".
_REMAINS = re.compile(
    r"\b(?:keeps?|comes? to|reach(?:es)?|has|have|delivers?|gives?|remains?|runs? at|is left with|still)\s*$", re.I
)
_OF_TIME = re.compile(r"^\s*(?:of\s+)?(?:the|its|\S*['’]s)\s+(?:time|power|score|rate)", re.I)
_IN = re.compile(r"\b(?:in|takes|needs|draws|at|with)\s*$", re.I)
# "about" and fractions in words are taken so loosely, as a share of the amount.
LOOSE = 0.15
# "twice" is meant more closely.
_LOOSELY_MANY = 0.02


@dataclass(frozen=True)
class Amount:
    """A relative amount: a change or a share in %, or a multiple; `spare` is how loosely it is meant."""

    kind: Kind
    low: float
    high: float
    spare: float
    bound: Bound
    at: int
    signed: bool = False


@dataclass(frozen=True)
class Quantity:
    """A number with a unit."""

    value: float
    unit: str
    spare: float
    bound: Bound
    at: int
    end: int


def without_intervals(text: str) -> str:
    """A text without intervals in brackets, which stand beside an amount; its other letters keep their places."""
    return _INTERVAL.sub(lambda found: " " * len(found[0]), text)


def amounts_of(text: str) -> list[Amount]:
    """The relative amounts of a text.

    >>> [(one.kind, one.low, one.bound) for one in amounts_of("gains more than 33 %, at twice the price")]
    [('change', 33.0, 'least'), ('times', 2.0, '')]
    """
    found = []
    for one in _PERCENT.finditer(text):
        low = _number(one["a"])
        high = _number(one["b"]) if one["b"] else low
        share = bool(_REMAINS.search(text[: one.start()]))
        spare = _half_step(one["a"]) + _loose(one["bound"], low)
        signed = one["a"][0] in "−-"
        found.append(_amount("share" if share else "change", (low, high), spare, one, signed=signed))
    for one in _MANY.finditer(text):
        value = _number(one["a"]) if one["a"] else _TIMES[one["word"].lower()]
        spare = (_half_step(one["a"]) if one["a"] else _LOOSELY_MANY * value) + _loose(one["bound"], value)
        found.append(_amount("times", (value, value), spare, one))
    for one in _FRACTION.finditer(text):
        size = 100 * _FRACTIONS[one["part"].lower()] * {"two": 2, "three": 3}.get((one["count"] or "").lower(), 1)
        share = bool(_OF_TIME.match(text[one.end() :]) and _IN.search(text[: one.start()]))
        spare = 0.0 if _bound(one["bound"]) else LOOSE * size
        found.append(_amount("share" if share else "change", (size, size), spare, one))
    return sorted(found, key=lambda one: one.at)


def quantities_of(text: str) -> list[Quantity]:
    """The numbers with units of a text.

    >>> [(one.value, one.unit) for one in quantities_of("it runs 9.5 K cooler at 4K")]
    [(9.5, '°C')]
    >>> [(one.value, one.unit) for one in quantities_of("drops after 44 s to 61.4 fps")]
    [(44.0, 's'), (61.4, 'fps')]
    """
    return [
        Quantity(
            _number(one["a"]),
            _UNITS.get(one["unit"].lower(), one["unit"]),
            _half_step(one["a"]) + _loose(one["bound"], _number(one["a"])),
            _bound(one["bound"]),
            one.start("a"),
            one.end(),
        )
        for one in _QUANTITY.finditer(text)
    ]


def _amount(
    kind: Kind, ends: tuple[float, float], spare: float, found: re.Match[str], *, signed: bool = False
) -> Amount:
    low, high = sorted(ends, key=abs)
    return Amount(kind, low, high, spare, _bound(found["bound"]), found.start(), signed)


def _number(text: str) -> float:
    return float(text.replace("−", "-").replace(",", "."))


def _half_step(text: str) -> float:
    """Half of the last digit's place."""
    decimals = len(re.split(r"[.,]", text)[1]) if re.search(r"[.,]", text) else 0
    return float(0.5 * 10**-decimals)


def _loose(words: str | None, value: float) -> float:
    return LOOSE * abs(value) if words and not _bound(words) else 0.0


def _bound(words: str | None) -> Bound:
    said = " ".join((words or "").lower().removeprefix("by ").split())
    if said in ("more than", "over", "at least", "no less than", "well over"):
        return "least"
    if said in ("less than", "under", "below", "at most", "no more than", "up to"):
        return "most"
    return ""
