"""What is said of a comparison (method 3): the plain change of the value, its interval, and the verdict."""

from collections.abc import Callable, Mapping

from nomothet.core.compare import Comparison
from nomothet.core.compare_placed import PlacedComparison
from nomothet.core.noise import MOST_PASSES
from nomothet.words.numbers import difference_unit, figure, signed, with_unit

ONE_SESSION = "One session each: no interval knows what changes from one session to the next."
# From this ratio on a change is told as a multiple.
_MULTIPLE = 2.0


def change_words(comparison: Comparison, unit: str, *, ratio: bool) -> str:
    """The plain change as it stands in a cell.

    >>> from nomothet.core.compare import compare_with_baseline
    >>> found = compare_with_baseline({"A": [65.0, 65.1], "B": [45.0, 45.1]}, "A", direction="lower")["B"]
    >>> change_words(found, "W", ratio=True)
    '−30.7 %'
    """
    if not ratio:
        return f"{_difference(comparison.change)} {difference_unit(unit)}".strip()
    if comparison.change >= _MULTIPLE:
        return f"{figure(comparison.change)} ×"
    return f"{signed(100 * (comparison.change - 1))} %"


def interval_words(comparison: Comparison, unit: str, *, ratio: bool) -> str:
    """The interval of the plain change; empty where the noise is unknown."""
    low, high = comparison.change_low, comparison.change_high
    if low is None or high is None:
        return ""
    if not ratio:
        return f"{_difference(low)} to {_difference(high)} {difference_unit(unit)}".strip()
    if comparison.change >= _MULTIPLE:
        return f"{figure(low)} to {figure(high)} ×"
    return f"{signed(100 * (low - 1))} to {signed(100 * (high - 1))} %"


def verdict_words(comparison: Comparison) -> str:
    """The verdict; without a margin there is no verdict word."""
    return "" if comparison.verdict == "no margin" else comparison.verdict


def speed_words(comparison: Comparison) -> str:
    """Of times, the speed that goes with the change: "1.33 × as fast"."""
    return f"{figure(1 / comparison.change)} × as fast"


_SESSIONS = "more sessions needed"


def settling_words(placed: PlacedComparison) -> str:
    """What would settle an undecided comparison; empty where nothing is open."""
    comparison = placed.comparison
    if comparison.verdict != "undecided":
        return ""
    if placed.by == "sessions":
        return _SESSIONS
    if comparison.passes_needed is None:
        return f"over {MOST_PASSES} passes needed"
    if comparison.passes_needed <= min(comparison.n, comparison.n_baseline):
        return "near the margin"
    return f"settled by {comparison.passes_needed} passes"


def settling_sentence(placed: PlacedComparison) -> str:
    """The same as a sentence."""
    words = settling_words(placed)
    return {
        "": "",
        _SESSIONS: "More sessions would be needed to settle it, not more passes in the same ones.",
        "near the margin": "The difference lies too near the edge of the margin to be called.",
        f"over {MOST_PASSES} passes needed": f"Over {MOST_PASSES} passes each would be needed to settle it.",
    }.get(words, f"It would be {words} each.")


def placing_sentence(placed: PlacedComparison) -> str:
    """By what a comparison was made, where it is not plain passes, and whether a side has a single session."""
    if placed.by == "rounds":
        return "By rounds: what a round's passes share is taken out of the noise."
    if placed.by == "sessions":
        return "By sessions: compared are the means of sessions, so the interval knows what changes between them."
    return ONE_SESSION if placed.one_session else ""


def comparison_sentence(comparison: Comparison, label: str, unit: str, own: str, baseline: str, *, ratio: bool) -> str:
    """A comparison that can be read aloud."""
    interval = interval_words(comparison, unit, ratio=ratio)
    between = f", {interval}" if interval else "; the noise is unknown"
    verdict = verdict_words(comparison)
    told = f": {verdict}." if verdict and comparison.verdict != "noise unknown" else "."
    return f"{own} against {baseline}: {label} {_size_words(comparison, unit, ratio)}{between}{told}"


def figure_sentence(own: str, label: str, centre: float, unit: str, n: int, why: str) -> str:
    """A cell that is not compared: its figure, and why there is no more to say."""
    told = f"; {why}" if why else ""
    return f"{own}: {label} {with_unit(centre, unit)}, from {n} {_passes(n)}{told}."


def evenness_sentence(evenness: float) -> str:
    return f"Evenness (1 % low over average) {figure(evenness, 2)}."


def basis_words(comparison: Comparison, unit: str, *, ratio: bool) -> str:
    """On how many passes and on which noise a comparison rests."""
    passes = f"{comparison.n} {_passes(comparison.n)} against {comparison.n_baseline}"
    noise = comparison.noise
    if noise.source == "unknown":
        return f"{passes}; a second pass of any cell would show the noise."
    spread = f"{figure(100 * noise.sd)} %" if ratio else f"{figure(noise.sd)} {difference_unit(unit)}".strip()
    source = {
        "pooled": "pooled noise",
        "own": "the noise of these two cells alone, since that of the test is uneven,",
        "borrowed": "noise borrowed from earlier reviews,",
    }[noise.source]
    return f"{passes}; {source} {spread} with {noise.df:.3g} degrees of freedom."


def _size_words(comparison: Comparison, unit: str, ratio: bool) -> str:
    if ratio and comparison.change >= _MULTIPLE:
        return f"{figure(comparison.change)} times as high"
    size = 100 * (comparison.change - 1) if ratio else comparison.change
    text = f"{abs(size):.1f} %" if ratio else f"{_difference(abs(size)).lstrip('+')} {difference_unit(unit)}".strip()
    if float(f"{abs(size):.3g}") == 0 or text.startswith("0.0 "):
        return "the same to the last digit shown"
    return f"{text} {'higher' if size > 0 else 'lower'}"


def _difference(value: float) -> str:
    return signed(value) if abs(value) >= 0.05 or value == 0 else f"{'+' if value > 0 else ''}{figure(value, 2)}"


def _passes(n: int) -> str:
    return "pass" if n == 1 else "passes"


def _no_baseline() -> str:
    return "the baseline has no usable pass"


def _thin_tail() -> str:
    return "thin tail: the runs are too short for this low"


def _untrusted(reason: str) -> str:
    return f"not trusted: {reason}"


def _held_at(fps: float) -> str:
    return f"both held at {fps:g}: shows nothing"


def _masked(by: str) -> str:
    return f"both limited by the {by}: shows nothing"


def _brackets(held: float, broke: float, base_held: float, base_broke: float, unit: str) -> str:
    own, base = f"{held:g} to {broke:g}", f"{base_held:g} to {base_broke:g}"
    apart = held >= base_broke or base_held >= broke
    meet = "the brackets do not meet" if apart else "the brackets overlap"
    return f"{own} against {base} {unit}: {meet}; one search each".replace("  ", " ")


def _no_comparison() -> str:
    return "no comparison"


def _neither_counts() -> str:
    return "another instrument counts for this quantity"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "no_baseline": _no_baseline,
    "thin_tail": _thin_tail,
    "untrusted": _untrusted,
    "held_at": _held_at,
    "masked": _masked,
    "brackets": _brackets,
    "no_comparison": _no_comparison,
    "instrument_sidelined": _neither_counts,
}
