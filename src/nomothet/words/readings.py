"""What is said of a reading that looks wrong (method 18)."""

from collections.abc import Callable, Mapping

from nomothet.words.numbers import MINUS


def _above(value: float, most: float, unit: str) -> str:
    return f"{value:g} {unit} is over {most:,.0f} {unit}."


def _outside(value: float, low: float, high: float, unit: str) -> str:
    return f"{value:g} {unit} is outside {low:g} to {high:g} {unit}.".replace("-", MINUS)


def _not_positive(value: float, unit: str) -> str:
    return f"{value:g} {unit} cannot be compared by ratio: it is not over 0."


def _over_rated(value: float, rated: float, unit: str) -> str:
    return f"{value:g} {unit} is over 1.5 times the rated {rated:g} {unit}."


def _run_together(value: float) -> str:
    return f"{value:g} looks like two numbers run together."


def _low_above_average(low: float, average: float) -> str:
    return f"The low of {low:g} is above the average of {average:g}."


def _minimum_above_low(minimum: float, low: float) -> str:
    return f"The minimum of {minimum:g} is above the low of {low:g}."


def _far_away(value: float, deviations: float, usual: float, unit: str) -> str:
    words = f"{value:g} {unit} is {deviations:.0f} standard deviations from this cell's {usual:.4g} {unit}."
    return words.replace("  ", " ")


SENTENCES: Mapping[str, Callable[..., str]] = {
    "reading_above": _above,
    "reading_outside": _outside,
    "reading_not_positive": _not_positive,
    "reading_over_rated": _over_rated,
    "reading_run_together": _run_together,
    "low_above_average": _low_above_average,
    "minimum_above_low": _minimum_above_low,
    "reading_far_away": _far_away,
}
