"""What is said of the recorder's cost (method 13)."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.lists import and_list


def _too_few_pairs(tests: Sequence[str], fewest: int) -> str:
    return f"{and_list(tests)} {'has' if len(tests) == 1 else 'have'} fewer than {fewest} pairs of passes"


def _directions_differ(tests: Sequence[str]) -> str:
    return f"of {and_list(tests)} some are better higher and some lower: each has its own correction only"


def _factors_disagree(tests: Sequence[str]) -> str:
    return f"{and_list(tests)} disagree by more than their intervals: one correction does not fit both"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "too_few_pairs": _too_few_pairs,
    "directions_differ": _directions_differ,
    "factors_disagree": _factors_disagree,
}
