"""What is said of a cell's flags (methods 1, 2 and 16)."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.lists import and_list, numbers_of
from nomothet.words.numbers import difference_unit, figure, signed


def _outlier(number: int, away: float, unit: str, cold: bool) -> str:
    size = f"{abs(away):.1f} %" if unit == "%" else f"{figure(abs(away))} {difference_unit(unit)}".strip()
    side = "above" if away > 0 else "below"
    kind = "cold first pass" if cold else "outlier"
    return f"pass {number}, {kind}: {size} {side} the median"


def _drifts(per_pass: float, unit: str) -> str:
    return f"drifts by {signed(per_pass, 2)} {difference_unit(unit)} a pass".replace("  ", " ")


def _rate_held(fps: float, passes: int, of: int) -> str:
    some = "" if passes == of else f" in {passes} of {of} passes"
    return f"frame rate held at {fps:g} fps{some} (a frame cap or the display)"


def _ran_anyway(
    label: str,
    least: float | None,
    has: float | None,
    unit: str,
    centre: float | None,
    of: str,
    failed: Sequence[str],
) -> str:
    asked = label if least is None else f"{least:g} {unit} of {label}".replace("  ", " ")
    there = "it has none" if has is None else f"it has {has:g}"
    came = [*failed, *([f"ran at {figure(centre)} {of}".strip()] if centre is not None else [])]
    return f"asks for {asked}, {there}: {and_list(came) or 'started, without a figure'}"


def _tail_thin() -> str:
    return "thin tail: too few frames for its 1 % low"


def _too_short(c_per_min: float) -> str:
    return f"too short: it still warmed up by {c_per_min:.1f} K a minute at its end"


def _unlike_within(label: str, values: Sequence[str], usual: str, passes: Sequence[int]) -> str:
    which = f"pass{'' if len(passes) == 1 else 'es'} {numbers_of(passes)}"
    return f"{label} was {and_list(values)} in {which}, {usual} in the others"


def _not_as_claimed(label: str, claimed: str, found: str, passes: Sequence[int]) -> str:
    return f"{label} was {found}, not {claimed}, in pass{'' if len(passes) == 1 else 'es'} {numbers_of(passes)}"


def _ran_as_other(number: int, what: str) -> str:
    return f"pass {number} was run with {what}: not averaged until somebody decides"


def _air_changed(low: float, high: float) -> str:
    return f"room temperature from {low:g} to {high:g} °C"


def _searches_contradict(held: float, broke: float) -> str:
    return f"its searches contradict each other: {held:g} held in one, {broke:g} broke in another"


def _no_figure(running: int, failed: Sequence[str], blocked: bool, kept: bool, why: str, aside: bool, owed: int) -> str:
    said = [*failed]
    if running:
        said.append("running")
    if blocked and not kept:
        said.append("not averaged: run as another test")
    if kept:
        said.append(f"no figure: {why}" if why else "no figure was recorded")
    if aside:
        said.append("set aside")
    if owed:
        said.append(f"{owed} owed")
    return " · ".join(said) or "not run"


def _baseline_drifted(change: str) -> str:
    return f"the session drifted: the baseline came back {change} from what it was"


def _baseline_back(open: bool) -> str:
    if open:
        return "whether the baseline came back level cannot be told from so few passes"
    return "the baseline came back level"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "ran_anyway": _ran_anyway,
    "outlier": _outlier,
    "drifts": _drifts,
    "rate_held": _rate_held,
    "tail_thin": _tail_thin,
    "too_short": _too_short,
    "unlike_within": _unlike_within,
    "not_as_claimed": _not_as_claimed,
    "ran_as_other": _ran_as_other,
    "air_changed": _air_changed,
    "searches_contradict": _searches_contradict,
    "no_figure": _no_figure,
    "baseline_drifted": _baseline_drifted,
    "baseline_back": _baseline_back,
}
