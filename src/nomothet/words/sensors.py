"""What is said of sensors that cannot be believed (method 24)."""

from collections.abc import Callable, Mapping


def _missing(share: float) -> str:
    return f"{100 * share:.0f} % of its readings are missing"


def _impossible(count: int, farthest: float, unit: str) -> str:
    counted = "1 value cannot be" if count == 1 else f"{count} values cannot be"
    return f"{counted}: {farthest:g} {unit}"


def _still(value: float, unit: str) -> str:
    return f"stands still at {value:g} {unit}"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "no_reading": lambda: "no reading at all",
    "readings_missing": _missing,
    "values_impossible": _impossible,
    "stands_still": _still,
}
