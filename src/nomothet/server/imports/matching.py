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
    """The test and the column that a name names whole, else those whose words it has most of; open where none or
    several are as good."""
    test = _best([(one.pk, [one.workload.name, one.workload.key], f"{one.workload.name} {one.workload.key} "
                   f"{one.detail}") for one in tests], name)  # fmt: skip
    column = _best([(one.pk, [one.label, one.configuration.name, f"{one.configuration.system.name} {one.label}"],
                     f"{one.label} {one.configuration.name} {one.configuration.system.name}") for one in columns],
                   name)  # fmt: skip
    return Guess(test, column)


def _best(choices: list[tuple[int, list[str], str]], name: str) -> int | None:
    if len(choices) == 1:
        return choices[0][0]
    exact = _named_whole([(pk, names) for pk, names, _ in choices], name)
    return exact if exact is not None else _most_words([(pk, _words(text)) for pk, _, text in choices], _words(name))


def _named_whole(choices: list[tuple[int, list[str]]], name: str) -> int | None:
    """The one choice a name of which stands whole in the file's name; of "28W" and "28W fast" the longer one."""
    said = f" {' '.join(_parts(name))} "
    found = {
        f" {plain} ": pk
        for pk, names in choices
        for plain in (" ".join(_parts(one)) for one in names)
        if plain and f" {plain} " in said
    }
    whole = {pk for one, pk in found.items() if not any(one != other and one in other for other in found)}
    return whole.pop() if len(whole) == 1 else None


def _most_words(choices: list[tuple[int, set[str]]], words: set[str]) -> int | None:
    # A word that every choice has says nothing.
    common = set.intersection(*(one for _, one in choices)) if choices else set()
    scored = sorted(((len((mine - common) & words), pk) for pk, mine in choices), reverse=True)
    if not scored or scored[0][0] == 0 or (len(scored) > 1 and scored[1][0] == scored[0][0]):
        return None
    return scored[0][1]


def _words(text: str) -> set[str]:
    """Words and numbers with their units: "28W" and "28 W" are the same."""
    parts = _parts(text)
    joined = {a + b for a, b in pairwise(parts) if a.isdigit() and b.isalpha() and len(b) <= 3}
    return {part for part in parts if len(part) > 1 or part.isdigit()} | joined


def _parts(text: str) -> list[str]:
    """A text in small words; "ReefWalk" and "reef_walk" are the same two."""
    parted = re.sub(r"([a-z])([A-Z])", r"\1 \2", text)
    return re.findall(r"\d+[a-z]*|[a-z]+", parted.lower())
