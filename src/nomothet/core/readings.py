"""Section 18 of the method: readings that are not exact, read from what is typed, and what looks wrong in them."""

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from nomothet.core.errors import BadQuantity
from nomothet.core.notes import Note, note
from nomothet.core.passes import Scale, antilog, on_scale
from nomothet.core.sensors import possible_range
from nomothet.core.units import Conversion, conversion, unit_named

Bound = Literal["", "about", "over", "under"]

# How a reading was taken; the last is shown apart and never pooled.
READING_METHODS = (
    "captured",
    "built-in test's own result",
    "glance at an overlay",
    "read from output",
    "stopwatch",
    "meter",
    "touch or ear",
    "remembered",
)
# Half-width of a stopwatch by hand: the reaction at its start and at its end, in seconds.
STOPWATCH_HALF_S = 0.2
# What a reading by a method is usually good for, by unit, and for any other unit under ""; those that are left out have
# no usual precision, and whoever reads says theirs.
_USUAL: Mapping[str, Mapping[str, float]] = {
    "captured": {"": 0.0},
    "read from output": {"": 0.0},
    "built-in test's own result": {"": 0.0},
    "glance at an overlay": {"fps": 1.0, "°C": 1.0, "": 0.0},
    "stopwatch": {"s": STOPWATCH_HALF_S, "": 0.0},
    "meter": {"": 0.0},
    "touch or ear": {},
    "remembered": {},
}
# A letter instead of a figure is an outcome, a sign is why there is none.
OUTCOME_LETTERS = {
    "n": "did_not_start",
    "r": "refused",
    "c": "crashed",
    "h": "hung",
    "v": "visual_faults",
    "o": "overloaded",
    "s": "stopped",
}
MISSING_SIGNS = {"-": "not run", "x": "not recorded", "?": "shown but not noted"}

_NUMBER = r"[+−-]?\d+(?:[.,]\d+)*"
_UNIT = r"[^\W\d_][^\s\d±–~<>@()]*(?:\([A-Z]\))?|°[CF]|%|1/(?:s|min)"
_ITEM = re.compile(
    rf"(?P<sign>[~≈<>≤≥])?\s*(?P<a>{_NUMBER})"
    rf"(?:(?:\s*(?:–|—|\.\.)\s*|-)(?P<b>\d+(?:[.,]\d+)*)|\s*(?:±|\+/-)\s*(?P<half>\d+(?:[.,]\d+)*))?"
    rf"(?P<rest>\s*(?P<unit>{_UNIT}))?"
)
_CLOCK = re.compile(r"(?:(?P<h>\d+):)?(?P<m>\d{1,3}):(?P<s>\d{2}(?:[.,]\d+)?)(?![\d:])")
_SPOKEN = re.compile(
    r"(?=\d)(?:(?P<h>\d+)\s*h)?\s*(?:(?P<m>\d+)\s*min)?\s*(?:(?P<s>\d+(?:[.,]\d+)?)\s*s)?(?![^\s;|])", re.ASCII
)
_PART = re.compile(r"\s*@\s*(\d+(?:\.\d+)?)\s*/\s*(\d+(?:\.\d+)?)(?![\d.])")
_REASON = re.compile(r"\s*\(([^()]{1,600})\)")
_MOST_REASON = 300
# "1 234" may be one number or two passes; "120 118" is two.
_GROUPED = re.compile(r"(?<![\d.,])(\d{1,3})[ \u00a0\u202f](\d{3})(?![\d.,]\d)(?!\d)")
_FAR_APART = 5.0
_PARTED = re.compile(r"[\s;|]+")
_BOUNDS: dict[str, Bound] = {"~": "about", "≈": "about", "<": "under", "≤": "under", ">": "over", "≥": "over"}


@dataclass(frozen=True)
class Reading:
    """One value as it was read, in the metric's unit, or why there is none.

    Attributes
    ----------
    half_width : float or None
        0 is exact; None is not known, and such a reading takes part in no verdict.
    spread : float
        Extra standard deviation that the reading brings along: `(b − a)/√12`, or `h/√12` of its step.
    outcome : str
        How the pass ended; only a completed one has a value.
    reason : str
        Why it ended so, as in ``c (the driver was reset)``.
    action, fallback : str
        What was done about it, and what was run instead: ``c (the driver was reset; started again; low preset)``.
    step : float
        The step of the last digit that was typed.
    part : tuple of float or None
        Of a job done in part, how much of how much; the value is then the forecast of the whole (section 19).
    """

    value: float | None
    half_width: float | None = 0.0
    bound: Bound = ""
    outcome: str = "completed"
    missing: str = ""
    part: tuple[float, float] | None = None
    step: float = 0.0
    reason: str = ""
    action: str = ""
    fallback: str = ""

    @property
    def spread(self) -> float:
        """The wider of its range and its last digit counts."""
        return max(2 * (self.half_width or 0.0), self.step) / math.sqrt(12)

    @property
    def counts(self) -> bool:
        """Whether it may take part in a verdict."""
        return self.value is not None and self.half_width is not None


def read_readings(text: str, unit: str, *, precision: float | None = 0.0) -> list[Reading]:
    """Read what was typed into a cell: one reading a pass.

    Parameters
    ----------
    unit : str
        The metric's unit; another of its family is converted. Times are also read as ``12:07`` and ``1 h 03 min``.
    precision : float or None
        Half-width that the row's method has, in `unit`, or None where it is not known; a range or ``±`` in the text
        goes before it.

    Raises
    ------
    BadQuantity
        Names what could not be read and what would do.

    Examples
    --------
    >>> [reading.value for reading in read_readings("94.1 93.8 94.4", "fps")]
    [94.1, 93.8, 94.4]
    >>> one = read_readings("52–55", "°C")[0]
    >>> one.value, one.half_width
    (53.5, 1.5)
    >>> read_readings("12:07", "s")[0].value
    727.0
    """
    if len(text) > 2000:
        raise BadQuantity("text", "That is more than a cell can hold; paste a block instead.")
    _refuse_grouped(text)
    found: list[Reading] = []
    at = 0
    while at < len(text):
        parted = _PARTED.match(text, at)
        if parted:
            at = parted.end()
            continue
        reading, at = _next_reading(text, at, unit)
        part = _PART.match(text, at)
        if part:
            reading, at = _forecast(reading, float(part[1]), float(part[2]), unit), part.end()
        found.append(_with_precision(reading, precision))
    if not found:
        raise BadQuantity("text", "Nothing was typed; a figure, or a letter for how the pass ended, is needed.")
    return found


def _next_reading(text: str, at: int, unit: str) -> tuple[Reading, int]:
    end = _word_end(text, at)
    word = text[at:end]
    if word[:1].lower() in OUTCOME_LETTERS and (len(word) == 1 or word[1:2] == "("):
        said = _REASON.match(text, at + 1)
        after = said.end() if said else at + 1
        outcome = OUTCOME_LETTERS[word[0].lower()]
        reason, action, fallback = _came_of(said[1] if said else "")
        return Reading(None, None, outcome=outcome, reason=reason, action=action, fallback=fallback), after
    if word in MISSING_SIGNS or word in ("–", "—"):
        return Reading(None, None, missing=MISSING_SIGNS.get(word, "not run")), end
    seconds = _read_time(text, at) if _convertible("s", unit) else None
    if seconds is not None:
        value, step, after = seconds
        turned = _turned("s", unit, word)
        return Reading(turned.of(value), step=step * turned.factor), after
    item = _ITEM.match(text, at)
    if item is None or (item.end() < len(text) and not _PARTED.match(text, item.end()) and text[item.end()] != "@"):
        raise BadQuantity("text", f"{word!r} cannot be read. A figure looks like 94.1, 52–55, ~45, >200 or 12:07.")
    # After a space a letter is an outcome of its own, unless the row's unit goes by it: "61 C" is a temperature.
    apart = item["rest"] and item["rest"] != item["unit"] and item["unit"].lower() in OUTCOME_LETTERS
    own = apart and (item["unit"] == unit or (item["unit"].isupper() and _convertible(item["unit"], unit)))
    if apart and not own:
        return _from_item(item, unit, with_unit=False), item.start("rest")
    return _from_item(item, unit), item.end()


def _came_of(said: str) -> tuple[str, str, str]:
    """Why a pass failed, what was done about it and what was run instead, from what stands in its brackets."""
    parts = [part.strip() for part in said.split(";")]
    if len(parts) > 3:
        raise BadQuantity("text", f"({said}) has {len(parts)} parts; it says why, what was done, what ran instead.")
    if any(len(part) > _MOST_REASON for part in parts):
        raise BadQuantity("text", f"Each part of what came of a failure has {_MOST_REASON} letters at most.")
    reason, action, fallback = [*parts, "", ""][:3]
    return reason, action, fallback


def _forecast(reading: Reading, done: float, whole: float, unit: str) -> Reading:
    """The whole of a job from a part of it, as if all parts were equal; a forecast takes part in no verdict."""
    if reading.value is None or not 0 < done <= whole:
        raise BadQuantity("text", "A part is written 12:07 @ 30/120: the time, then how much of how much was done.")
    if not (_convertible("s", unit) or _convertible("J", unit)):
        raise BadQuantity("text", "Only times and energies of a part can be drawn out to the whole.")
    return Reading(reading.value * whole / done, None, "about", part=(done, whole), step=reading.step * whole / done)


def _word_end(text: str, at: int) -> int:
    gap = _PARTED.search(text, at)
    return gap.start() if gap else len(text)


def _refuse_grouped(text: str) -> None:
    found = next((one for one in _GROUPED.finditer(text) if int(one[2]) >= _FAR_APART * int(one[1])), None)
    if found is not None:
        whole = f"{found[1]}{found[2]}"
        raise BadQuantity(
            "text",
            f"{found[0]} can be read in two ways; write {whole} for one figure or {found[1]}; {found[2]} for two.",
        )


def _read_time(text: str, at: int) -> tuple[float, float, int] | None:
    """Seconds of `12:07`, `1:02:03` or `1 h 03 min`, the step of its last digit, and where it ends."""
    found = _CLOCK.match(text, at)
    if found is None:
        found = _SPOKEN.match(text, at)
        if found is None or not (found["h"] or found["m"]):
            return None
    parts = [float((found[part] or "0").replace(",", ".")) for part in ("h", "m", "s")]
    last = next(size for part, size in (("s", 1.0), ("m", 60.0), ("h", 3600.0)) if found[part])
    step = last * _last_digit(found["s"]) if found["s"] else last
    return parts[0] * 3600 + parts[1] * 60 + parts[2], step, found.end()


def _last_digit(typed: str) -> float:
    """The step of the last digit of a number as it was typed."""
    _, point, decimals = typed.replace(",", ".").rpartition(".")
    return float(10.0 ** -len(decimals)) if point else 1.0


def _from_item(item: re.Match[str], unit: str, *, with_unit: bool = True) -> Reading:
    typed = (item["unit"] or "").rstrip(".,") if with_unit else ""
    turned = _turned(typed, unit, item[0]) if typed else Conversion(1.0)
    value = _number(item["a"])
    bound = _BOUNDS.get(item["sign"] or "", "")
    step = _last_digit(item["a"]) * turned.factor
    if item["b"] is not None:
        other = _number(item["b"])
        if other < value:
            raise BadQuantity("text", f"The range {item[0].strip()} runs backwards.")
        middle = turned.of((value + other) / 2)
        return Reading(middle, (other - value) / 2 * turned.factor, bound, step=step)
    if item["half"] is not None:
        return Reading(turned.of(value), _number(item["half"]) * turned.factor, bound, step=step)
    return Reading(turned.of(value), None if bound else 0.0, bound, step=step)


def _number(text: str) -> float:
    text = text.replace("−", "-")
    if "," in text and "." in text:
        text = text.replace(",", "") if text.rfind(".") > text.rfind(",") else text.replace(".", "").replace(",", ".")
    elif re.fullmatch(r"[+-]?\d{1,3},\d{3}", text):
        raise BadQuantity(
            "text", f"{text} can be read in two ways; write {text.replace(',', '.')} or {text.replace(',', '')}."
        )
    else:
        text = text.replace(",", ".")
    try:
        return float(text)
    except ValueError:
        raise BadQuantity("text", f"{text!r} is not a number.") from None


def _convertible(typed: str, unit: str) -> bool:
    return conversion(unit_named(typed, unit), unit) is not None


def _turned(typed: str, unit: str, item: str) -> Conversion:
    found = conversion(unit_named(typed, unit), unit)
    if found is None:
        wanted = f"{unit}" if unit else "plain numbers"
        raise BadQuantity("text", f"{item.strip()!r} is in {typed}; this row is in {wanted}.")
    return found


def _with_precision(reading: Reading, precision: float | None) -> Reading:
    """A row's precision holds for figures that were typed plainly; "about" is never more exact than a range says."""
    if reading.value is None or reading.bound or reading.half_width != 0:
        return reading
    return replace(reading, half_width=precision)


@dataclass(frozen=True)
class Known:
    """What is known about a cell before a figure is stored.

    Attributes
    ----------
    values : sequence of float
        Kept values of the cell for the same metric.
    spread : float or None
        Pooled SD on the computing scale; without it only gross mistakes are told.
    rated : float or None
        Of a clock, what the part is rated for.
    others : mapping
        Values of the same pass by role: "average", "low", "minimum".
    """

    values: Sequence[float] = ()
    spread: float | None = None
    rated: float | None = None
    average: float | None = None
    low: float | None = None
    minimum: float | None = None


def usual_half_widths(method: str) -> Mapping[str, float]:
    """The half-width that readings by a method usually have, by unit; under "" that of any other unit.

    Nothing is usual of touch, ear and memory: whoever reads says how exact it is.

    >>> dict(usual_half_widths("stopwatch")), dict(usual_half_widths("remembered"))
    ({'s': 0.2, '': 0.0}, {})

    Raises
    ------
    KeyError
        For a method that is not one of `READING_METHODS`.
    """
    return _USUAL[method]


def plausibility(value: float, *, metric: str, unit: str, scale: Scale, known: Known) -> list[Note]:
    """What looks wrong in a figure; nothing of it is refused.

    Parameters
    ----------
    metric : str
        "average", "low", "minimum", "clock" or any other word.

    Examples
    --------
    >>> [one.code for one in plausibility(2500.0, metric="average", unit="fps", scale="ratio", known=Known())]
    ['reading_above']
    """
    found = [*_impossible(value, unit, scale), *_order(value, metric, known)]
    if known.rated is not None and value > 1.5 * known.rated:
        found.append(note("reading_over_rated", value=value, rated=known.rated, unit=unit))
    if _run_together(value, known.values):
        found.append(note("reading_run_together", value=value))
    elif (known.values and scale == "ratio" and value > 0) or (known.values and scale == "difference"):
        found += _far_away(value, unit, scale, known)
    return found


def _impossible(value: float, unit: str, scale: Scale) -> list[Note]:
    if unit == "fps" and value > 2000:
        return [note("reading_above", value=value, most=2000, unit=unit)]
    if unit == "%" and not 0 <= value <= 100:
        return [note("reading_outside", value=value, low=0, high=100, unit=unit)]
    bounds = possible_range("", unit)
    if bounds is not None and unit != "%" and not bounds[0] <= value <= bounds[1]:
        return [note("reading_outside", value=value, low=bounds[0], high=bounds[1], unit=unit)]
    if scale == "ratio" and value <= 0:
        return [note("reading_not_positive", value=value, unit=unit)]
    return []


def _order(value: float, metric: str, known: Known) -> list[Note]:
    average = value if metric == "average" else known.average
    low = value if metric == "low" else known.low
    minimum = value if metric == "minimum" else known.minimum
    found = []
    if average is not None and low is not None and low > average:
        found.append(note("low_above_average", low=low, average=average))
    if minimum is not None and low is not None and minimum > low:
        found.append(note("minimum_above_low", minimum=minimum, low=low))
    return found


def _run_together(value: float, values: Sequence[float]) -> bool:
    """Whether the digits fall into two numbers that are both near what the cell holds."""
    digits = f"{value:.0f}"
    if not values or value != int(value) or len(digits) < 4:
        return False
    usual = sorted(values)[len(values) // 2]
    near = [abs(float(part) / usual - 1) < 0.2 for at in (len(digits) // 2, (len(digits) + 1) // 2)
            for part in (digits[:at], digits[at:]) if part and usual > 0]  # fmt: skip
    return len(near) >= 2 and (all(near[:2]) or all(near[2:]))


def _far_away(value: float, unit: str, scale: Scale, known: Known) -> list[Note]:
    if known.spread is None or not known.spread > 0:
        return []
    y = on_scale([value], scale)[0]
    kept = on_scale([one for one in known.values if scale == "difference" or one > 0], scale)
    if not len(kept):
        return []
    middle = math.fsum(kept) / len(kept)
    away = abs(y - middle) / known.spread
    if away <= 5:
        return []
    usual = antilog(middle) if scale == "ratio" else middle
    return [note("reading_far_away", value=value, deviations=away, usual=usual, unit=unit)]
