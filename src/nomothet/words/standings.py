"""What is said of results beside one another (method 26)."""

from collections.abc import Callable, Mapping

from nomothet.core.pairwise import Pairwise
from nomothet.words.fingerprints import label_of, text_of_value
from nomothet.words.numbers import signed

_LOWS = {"percentile": "the percentile", "slowest_mean": "the mean of the slowest", "told": "whatever its tool takes"}
_POWER = {"wall power": "at the wall", "power": "by the package", "graphics power": "by the graphics card"}


def _low(own: str, other: str) -> str:
    return f"its low is {_LOWS.get(own, own)}, not {_LOWS.get(other, other)}"


def _power(own: str, other: str) -> str:
    return f"its power was told {_POWER.get(own, own)}, not {_POWER.get(other, other)}"


def _no_pass() -> str:
    return "no pass of it counts"


def _no_ratio() -> str:
    return "its figures cannot be held against others as ratios"


def _remembered() -> str:
    return "remembered, over or under a bound, or about: shown, and held against nothing"


def _other_edition(version: str, other: str, why: str) -> str:
    told = f": {why}" if why else ""
    return f"version {version} is declared comparable with {other}{told}"


def unlike_words(key: str, own: object, other: object) -> str:
    """In what a result differs from the reference, shortly.

    >>> unlike_words("image", 42, 41), unlike_words("version", "2.2", "2.3")
    ('image 42, not 41', 'workload version 2.2, not 2.3')
    """
    return f"{label_of(key)} {text_of_value(own)}, not {text_of_value(other)}"


_STANDS = {
    "noise unknown": "against",
    "undecided": "is undecided against",
    "level": "is level with",
    "ahead": "is ahead of",
    "slightly ahead": "is slightly ahead of",
}


def ratio_words(compared: Pairwise) -> str:
    """A ratio over several tests as a change, with its interval where the noise is known.

    >>> ratio_words(Pairwise(1.1, 1.08, 1.12, "ahead")), ratio_words(Pairwise(0.9, None, None, "noise unknown"))
    ('+10.0 % (+8.0 to +12.0 %)', '−10.0 %')
    """
    told = f"{signed(100 * (compared.ratio - 1))} %"
    if compared.low is None or compared.high is None:
        return told
    return f"{told} ({signed(100 * (compared.low - 1))} to {signed(100 * (compared.high - 1))} %)"


def over_all_sentence(own: str, other: str, compared: Pairwise, tests: int, best: str, worst: str) -> str:
    """A configuration against another over the tests of a set.

    >>> over_all_sentence("Heron", "Wren", Pairwise(1.1, 1.08, 1.12, "ahead"), 2, "Kiln", "Loom")
    'Over 2 tests Heron is ahead of Wren: +10.0 % (+8.0 to +12.0 %), most in Kiln, least in Loom.'
    """
    stands = _STANDS.get(compared.verdict, f"is {compared.verdict}")
    range_ = f", most in {best}, least in {worst}" if best != worst else ""
    whole = "1 test" if tests == 1 else f"{tests} tests"
    return f"Over {whole} {own} {stands} {other}: {ratio_words(compared)}{range_}."


def _measured_before(label: str, own: str, now: str) -> str:
    return f"measured under {label} {own}; {now} since"


def _measured_before_version(own: str, now: str) -> str:
    return f"measured with version {own}; {now} is there since"


def _doubt(words: str) -> str:
    return words


SENTENCES: Mapping[str, Callable[..., str]] = {
    "measured_before": _measured_before,
    "measured_before_version": _measured_before_version,
    "standing_doubt": _doubt,
    "standing_low": _low,
    "standing_power": _power,
    "standing_no_pass": _no_pass,
    "standing_no_ratio": _no_ratio,
    "standing_remembered": _remembered,
    "standing_other_edition": _other_edition,
}
