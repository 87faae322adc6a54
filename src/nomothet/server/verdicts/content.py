"""The content of a verdict: the answer, and by use what is advised, under which conditions, in which words."""

import secrets
from collections.abc import Collection
from dataclasses import dataclass, field, replace
from typing import Any, Literal, get_args

import msgspec

from nomothet.core.parts import PRICE_BASES
from nomothet.server.problems import unusable
from nomothet.server.reviews.models import Review
from nomothet.server.verdicts.models import Verdict

Call = Literal["advised", "acceptable", "not advised", "not judged"]
# What comes of a use as a whole, where it is not a choice between configurations.
Outcome = Literal["", "worth it", "not worth it", "cannot be told"]
CALLS = get_args(Call)
OUTCOMES = [(one, one or "a choice") for one in get_args(Outcome)]
MOST_USES = 20
LONGEST_TEXT = 20_000
LONGEST_LINE = 300


@dataclass(frozen=True)
class Judged:
    """What is said of a configuration for a use."""

    column: int
    call: Call
    note: str = ""


@dataclass(frozen=True)
class Conditions:
    """Under which conditions it holds; `basis` is by which prices, where they play a part."""

    settings: str = ""
    room: str = ""
    workload: str = ""
    basis: str = ""


@dataclass(frozen=True)
class Use:
    """A use or an audience with its advice. One without a name speaks of the whole review."""

    key: str
    name: str = ""
    outcome: Outcome = ""
    judged: list[Judged] = field(default_factory=list)
    conditions: Conditions = Conditions()
    text: str = ""


def uses_of(verdict: Verdict | None) -> list[Use]:
    """The uses of a verdict."""
    return msgspec.convert(verdict.uses, list[Use]) if verdict else []


def read_uses(review: Review, given: Any) -> list[Use]:
    """Uses as they came from a browser; a new one gets a key.

    Raises
    ------
    Problem
        422, naming which of them and what would do.
    """
    if not isinstance(given, list) or len(given) > MOST_USES:
        raise unusable(f"The verdict has a list of {MOST_USES} uses at most.", field="uses")
    columns = set(review.columns.values_list("pk", flat=True))
    read = [_read(at, one, columns) for at, one in enumerate(given, 1)]
    keys = [one.key for one in read]
    if len(set(keys)) < len(keys):
        raise unusable("Two uses have the same key.", field="uses")
    return read


def _read(at: int, given: Any, columns: Collection[int]) -> Use:
    where = f"Use {at}"
    if not isinstance(given, dict):
        raise unusable(f"{where} cannot be read.", field="uses")
    try:
        use = msgspec.convert({**given, "key": given.get("key") or secrets.token_hex(4)}, Use)
    except msgspec.ValidationError as error:
        raise unusable(f"{where} cannot be read: {error}.", field="uses") from None
    if len(use.text) > LONGEST_TEXT:
        raise unusable(f"{where}: its text has {len(use.text)} letters; {LONGEST_TEXT} are the most.", field="uses")
    lines = (use.name, use.conditions.settings, use.conditions.room, use.conditions.workload, use.key)
    if any(len(line) > LONGEST_LINE for line in (*lines, *(one.note for one in use.judged))):
        raise unusable(f"{where}: a name, a condition or a note has {LONGEST_LINE} letters at most.", field="uses")
    if use.conditions.basis not in ("", *PRICE_BASES):
        raise unusable(f"{where}: prices are {', '.join(PRICE_BASES)}, not {use.conditions.basis!r}.", field="uses")
    named = [one.column for one in use.judged]
    if len(set(named)) < len(named):
        raise unusable(f"{where} judges a configuration twice.", field="uses")
    # What is said of a configuration that has gone goes with it.
    judged = [one for one in use.judged if one.column in columns]
    return replace(use, name=use.name.strip(), judged=judged, text=use.text.strip())
