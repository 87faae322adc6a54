"""Load searches as bench and server exchange them: the plan in a test's settings, attempts as plain records."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import fields
from typing import Any

from nomothet.core.errors import BadPlan
from nomothet.core.load_search import Attempt, SearchPlan

_WHOLE = ("start", "resolution", "floor", "ceiling", "confirm")
_NAMES = {field.name for field in fields(Attempt)}


def plan_of(settings: Mapping[str, Any]) -> SearchPlan:
    """The search that a test's settings ask for; `rungs` lists the steps of a ladder, the most demanding first.

    Raises
    ------
    BadPlan
        When a setting is no number, or the numbers contradict each other.

    Examples
    --------
    >>> plan_of({"start": 4, "resolution": 1, "soak_s": 900}).soak_s
    900.0
    >>> plan_of({"rungs": "high, medium, low"}).rungs
    3
    """
    rungs = rungs_of(settings)
    given: dict[str, Any] = {"rungs": len(rungs)}
    for key in _WHOLE:
        if settings.get(key) not in (None, ""):
            given[key] = _whole(key, settings[key])
    for key in ("growth", "soak_s"):
        if settings.get(key) not in (None, ""):
            given[key] = _number(key, settings[key])
    given.setdefault("start", given.get("floor", 1))
    return SearchPlan(**given)


def rungs_of(settings: Mapping[str, Any]) -> list[str]:
    """The names of a ladder's rungs."""
    given = settings.get("rungs") or []
    parts = given.split(",") if isinstance(given, str) else given
    return [str(part).strip() for part in parts if str(part).strip()]


def attempts_of(records: Iterable[Mapping[str, Any]]) -> list[Attempt]:
    """Attempts from their records; what else a record holds is passed over."""
    return [Attempt(**{name: record[name] for name in _NAMES & set(record)}) for record in records]


def attempt_as_dict(attempt: Attempt, phase: str, use: Mapping[str, Any] | None = None) -> dict[str, Any]:
    """A record of an attempt, with why it was made and what was used meanwhile."""
    return {**vars(attempt), "phase": phase, "use": dict(use or {})}


def load_words(settings: Mapping[str, Any], load: int, unit: str) -> str:
    """A load as it is read: `12 cameras`, or the name of a rung."""
    names = rungs_of(settings)
    if names:
        return names[load] if 0 <= load < len(names) else f"rung {load + 1}"
    return f"{load} {unit}".strip()


def held_loads(records: Sequence[Mapping[str, Any]]) -> list[Mapping[str, Any]]:
    """The attempts that held and were not made hot: those that use is fitted over."""
    return [record for record in records if record["holds"] and not record.get("hot")]


def _whole(key: str, given: object) -> int:
    number = _number(key, given)
    if number != int(number):
        raise BadPlan(f"{key} of a search is a whole number, not {given!r}")
    return int(number)


def _number(key: str, given: object) -> float:
    if isinstance(given, bool) or not isinstance(given, int | float | str):
        raise BadPlan(f"{key} of a search is a number, not {given!r}")
    try:
        number = float(given)
    except ValueError:
        raise BadPlan(f"{key} of a search is a number, not {given!r}") from None
    if not abs(number) < 1e9:
        raise BadPlan(f"{key} of a search cannot be {given!r}")
    return number
