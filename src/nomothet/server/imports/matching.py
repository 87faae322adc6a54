"""Which cell a file belongs to, by the words of its name."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from nomothet.server.reviews.models import Column, Test


@dataclass(frozen=True)
class Guess:
    """A test and a column, either of which may be open."""

    test: int | None
    column: int | None


def guess_cell(name: str, tests: Sequence[Test], columns: Sequence[Column]) -> Guess:
    """The test and the column whose words the name has most of; open where none or several are as good."""
    words = _words(name)
    test = _best([(one.pk, _words(f"{one.workload.name} {one.workload.key} {one.detail}")) for one in tests], words)
    labels = [(one.pk, _words(f"{one.label} {one.configuration.name}")) for one in columns]
    return Guess(test, _best(labels, words))


def _best(choices: list[tuple[int, set[str]]], words: set[str]) -> int | None:
    if len(choices) == 1:
        return choices[0][0]
    # A word that every choice has says nothing.
    common = set.intersection(*(one for _, one in choices)) if choices else set()
    scored = sorted(((len((mine - common) & words), pk) for pk, mine in choices), reverse=True)
    if not scored or scored[0][0] == 0 or (len(scored) > 1 and scored[1][0] == scored[0][0]):
        return None
    return scored[0][1]


def _words(text: str) -> set[str]:
    """Words and numbers with their units: "28W" and "28 W" are the same."""
    parts = re.findall(r"\d+[a-z]*|[a-z]+", text.lower())
    joined = {a + b for a, b in pairwise(parts) if a.isdigit() and b.isalpha() and len(b) <= 3}
    return {part for part in parts if len(part) > 1 or part.isdigit()} | joined
