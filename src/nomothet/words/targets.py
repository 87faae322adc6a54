"""What is said of targets (method 19)."""

from nomothet.core.target import Target
from nomothet.words.numbers import figure


def target_words(target: Target) -> str:
    """Whether a target is met, in as few words as a cell has room for."""
    return f"target {target.result}" + (", on one pass" if target.passes == 1 else "")


def target_sentence(target: Target, fps: float | None, unit: str) -> str:
    """The same as a sentence, with what was judged."""
    asked = f"{fps:g} fps" if unit == "fps" and fps is not None else "the limit"
    end = f"by {figure(target.average.end)} {unit}, the end of its interval"
    by = "by its value on one pass" if target.passes == 1 else end
    alone = "; this test has no lows" if target.by_average_alone and unit == "fps" else ""
    return f"Target of {asked}: {target.result}, {by}{alone}."
