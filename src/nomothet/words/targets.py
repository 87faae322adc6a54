"""What is said of targets (method 19)."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.core.target import Target
from nomothet.words.lists import and_list
from nomothet.words.numbers import figure


def _asked(limit: float, unit: str, at_most: bool) -> str:
    return f"{'at most ' if at_most else ''}{limit:g} {unit}".strip()


def _target(result: str, limit: float, unit: str, at_most: bool, passes: int) -> str:
    on_one = ", on one pass" if passes == 1 else ""
    return f"{_asked(limit, unit, at_most)}: {result}{on_one}"


def _target_unknown(limit: float, unit: str, at_most: bool, thin: bool) -> str:
    return f"{_asked(limit, unit, at_most)}: cannot tell, {'thin tail' if thin else 'no figure'}"


def _target_failures(passes: int, failed: Sequence[str], count: int) -> str:
    if not count:
        return f"no failure: met, {passes} {'pass' if passes == 1 else 'passes'}"
    return f"no failure: missed, {count} of {passes} {and_list(failed)}"


def target_sentence(target: Target, limit: float, unit: str, *, at_most: bool) -> str:
    """What came of a target as a sentence, with what was judged."""
    asked = _asked(limit, unit, at_most)
    end = f"by {figure(target.average.end)} {unit}, the end of its interval"
    by = "by its value on one pass" if target.passes == 1 else end
    alone = "; this test has no lows" if target.by_average_alone and unit == "fps" else ""
    return f"Target of {asked}: {target.result}, {by}{alone}."


SENTENCES: Mapping[str, Callable[..., str]] = {
    "target": _target,
    "target_unknown": _target_unknown,
    "target_failures": _target_failures,
    "target_no_passes": lambda: "no failure: cannot tell, no pass",
}
