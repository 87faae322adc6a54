"""What is said of what limits a cell, and of comparisons that its limit hides (methods 11, 12 and 17)."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.core.limits import NOTHING
from nomothet.words.numbers import figure

_CALLED: Mapping[str, str] = {
    "graphics": "limited by the graphics",
    "one thread": "limited by one thread",
    "all threads": "limited by all threads",
    "graphics memory": "short of graphics memory",
    "memory capacity": "short of main memory",
    "heat": "limited by heat",
    "power": "limited by its power limit",
    "clock held back": "limited by heat or power",
    "rate cap": "limited by a frame cap",
    "storage": "waiting for storage",
    "mixed": "mixed",
    NOTHING: "no limit found",
}
_MEMORY = {"memory used": "main memory", "graphics memory used": "graphics memory"}


def limit_words(called: str) -> str:
    """What a cell is called by its limit.

    >>> limit_words("power"), limit_words("unheard of")
    ('limited by its power limit', 'unheard of')
    """
    return _CALLED.get(called, called)


def length_words(seconds: float) -> str:
    """A moment or a length in the unit that fits.

    >>> length_words(36), length_words(95), length_words(5400)
    ('36 s', '2 min', '1 h 30 min')
    """
    if seconds < 90:
        return f"{seconds:.0f} s"
    minutes = round(seconds / 60)
    return f"{minutes} min" if seconds < 5400 else f"{minutes // 60} h {minutes % 60} min"


def _also_limited(kind: str) -> str:
    return f"also {kind}"


def _memory_ran_out(quantity: str, at_s: float, cost_pct: float | None) -> str:
    cost = "" if cost_pct is None else f", {cost_pct:.0f} % slower" if cost_pct > 1 else ", at no loss"
    return f"{_MEMORY.get(quantity, quantity)} full after {length_words(at_s)}{cost}"


def _rate_drops(at_s: float, cause: str, drop_pct: float) -> str:
    lost = f", {drop_pct:.0f} % lost" if drop_pct >= 1 else ""
    return f"drops at {length_words(at_s)} by {cause}{lost}"


def _memory_nearly_full(quantity: str, headroom_pct: float) -> str:
    return f"{headroom_pct:.0f} % of {_MEMORY.get(quantity, quantity)} free"


def _temperature_peak(peak_c: float, at_s: float) -> str:
    return f"peak {figure(peak_c)} °C at {length_words(at_s)}"


def _ran_out(
    quantity: str, at_s: float, used: float, capacity: float, unit: str, cost_pct: float | None, passes: int, of: int
) -> str:
    cost = ""
    if cost_pct is not None:
        cost = f"; the frame rate fell by {cost_pct:.0f} %" if cost_pct > 0 else "; the frame rate did not fall"
    name = _MEMORY.get(quantity, quantity)
    return (
        f"{name[:1].upper()}{name[1:]} ran out after {length_words(at_s)}: {figure(used)} of {figure(capacity)} {unit} "
        f"used{cost}, in {passes} of {_passes(of)}."
    )


def _sustained(
    drop_pct: float,
    first_drop_s: float | None,
    cause: str | None,
    evidence: str,
    passes: int,
    of: int,
    clock_retention: float | None,
) -> str:
    if drop_pct >= 1:
        level = f"Sustained is {drop_pct:.1f} % under the burst"
    elif drop_pct <= -1:
        level = f"Sustained is {-drop_pct:.1f} % over the burst"
    else:
        level = "Sustained is level with the burst"
    known = cause is not None and cause != "unknown"
    # A rate that rises in the end and fell for no known cause in between is not told as a drop.
    if first_drop_s is not None and cause and (known or drop_pct > -1):
        named = cause if known else "cause unknown"
        level += f"; first drop after {length_words(first_drop_s)} in {passes} of {_passes(of)}: {named}, {evidence}"
    holds = "" if clock_retention is None else f" The clock holds {100 * clock_retention:.0f} % of its rated highest."
    return f"{level}.{holds}"


def _hottest(peak_c: float, at_s: float, margin_c: float | None) -> str:
    margin = ""
    if margin_c is not None:
        margin = f"; {figure(margin_c)} K under the part's limit" if margin_c > 0.5 else "; at the part's limit"
    return f"Hottest at {figure(peak_c)} °C, after {length_words(at_s)}{margin}."


def _memory_peak(quantity: str, peak: float, capacity: float | None, headroom_pct: float | None, cut_off: bool) -> str:
    name = _MEMORY.get(quantity, quantity)
    of = "" if capacity is None else f" of {figure(capacity)}"
    free = "" if headroom_pct is None else f", {max(0.0, headroom_pct):.0f} % free"
    more = "; more may have been wanted" if cut_off else ""
    return f"{name[:1].upper()}{name[1:]}: {figure(peak)}{of} GB at most{free}{more}."


def _no_sensor(missing: Sequence[str]) -> str:
    return f"No sensor: {', '.join(missing)}. What needs them cannot be found."


def _passes(n: int) -> str:
    return f"{n} pass{'' if n == 1 else 'es'}"


def _hidden_by_cap(cap_fps: float | None) -> str:
    off = f"without the cap of {cap_fps:g} fps" if cap_fps else "with the cap or the wait for the display off"
    return f"Both are held at a rate: run it {off} to see what they can do."


def _hidden_by_graphics(resolution: str) -> str:
    lower = f"a lower resolution than {resolution}" if resolution else "lower graphics settings"
    return f"Both are limited by the graphics: this test hides what processor and memory do; {lower} would show it."


SENTENCES: Mapping[str, Callable[..., str]] = {
    "also_limited": _also_limited,
    "memory_ran_out": _memory_ran_out,
    "rate_drops": _rate_drops,
    "memory_nearly_full": _memory_nearly_full,
    "temperature_peak": _temperature_peak,
    "ran_out": _ran_out,
    "sustained": _sustained,
    "hottest": _hottest,
    "memory_peak": _memory_peak,
    "no_sensor": _no_sensor,
    "hidden_by_cap": _hidden_by_cap,
    "hidden_by_graphics": _hidden_by_graphics,
}
