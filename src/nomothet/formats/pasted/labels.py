"""What a label of a pasted table names: a test, a configuration, a metric, a run, or nothing that is known."""

import re
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

Kind = Literal["test", "configuration", "metric"]
Words = tuple[str, ...]

_RUN = re.compile(
    r"(?:run|pass|lap|try|attempt|#|no\.?|nr\.?)\s*(\d{1,3})|(\d{1,3})(?:\.|st|nd|rd|th)?\s*(?:run|pass|lap|try)", re.I
)
_UNIT = re.compile(r"[\[(]\s*([^\[\]()]{1,12})\s*[\])]\s*$|,\s*(fps|ms|s|min|h|W|°C|%|GB|MB|MHz|GHz|dB\(A\))\s*$")
# A longer text is no label.
_LONGEST = 200
# What people call metrics that have no label of their own; the words are as `words_of` gives them.
_ALSO: dict[Words, str] = {
    ("avg",): "average_fps",
    ("mean",): "average_fps",
    ("fps",): "average_fps",
    ("avg", "fps"): "average_fps",
    ("average", "fps"): "average_fps",
    ("1", "%"): "low_1pct",
    ("1", "low"): "low_1pct",
    ("low",): "low_1pct",
    ("lows",): "low_1pct",
    ("1", "%", "lows"): "low_1pct",
    ("0.1", "%"): "low_01pct",
    ("0.1", "low"): "low_01pct",
    ("0.1", "%", "lows"): "low_01pct",
}


@dataclass(frozen=True)
class Name:
    """Something that a label can name, by any of its names."""

    kind: Kind
    value: int | str
    names: tuple[str, ...]
    # Whether a part of a name is enough, where nothing else has it.
    loose: bool = True


@dataclass(frozen=True)
class Says:
    """What a row or a column is of; each None where it does not tell."""

    test: int | None = None
    configuration: int | None = None
    metric: str | None = None
    run: int | None = None
    unit: str = ""
    skip: bool = False

    def over(self, other: "Says") -> "Says":
        """What this tells, and what the other tells beyond that."""
        return Says(
            self.test if self.test is not None else other.test,
            self.configuration if self.configuration is not None else other.configuration,
            self.metric if self.metric is not None else other.metric,
            self.run if self.run is not None else other.run,
            self.unit or other.unit,
            self.skip or other.skip,
        )


SKIP = Says(skip=True)
NOTHING = Says()


class Labels:
    """The names that are known in a review."""

    def __init__(self, names: Iterable[Name]) -> None:
        self._names = list(names)
        self._told: dict[str, Says | None] = {}
        self._exact: dict[Words, list[Name]] = defaultdict(list)
        for name in self._names:
            for words in {words_of(one) for one in name.names} - {()}:
                self._exact[words].append(name)
        for also, metric in _ALSO.items():
            known = next((one for one in self._names if one.kind == "metric" and one.value == metric), None)
            if known is not None and also not in self._exact:
                self._exact[also].append(known)

    def says(self, label: str) -> Says | None:
        """What a label names; None where that is not known, or not one thing.

        A label may name several at once, as "Reef Walk 2, average" does.
        """
        plain = " ".join(label.split())
        if len(plain) > _LONGEST:
            return None
        if plain not in self._told:
            self._told[plain] = self._says(plain)
        return self._told[plain]

    def _says(self, label: str) -> Says | None:
        found = _UNIT.search(label)
        if found and words_of(label[: found.start()]):
            plain = self.says(label[: found.start()])
            if plain is not None:
                return replace(plain, unit=found[1] or found[2])
        run = _RUN.fullmatch(label)
        if run:
            return Says(run=int(run[1] or run[2]))
        words = words_of(label)
        if not words:
            return None
        whole = self._whole(words)
        return whole or self._in_two(words)

    def _whole(self, words: Words) -> Says | None:
        exact = self._exact.get(words)
        if exact:
            return _said(exact[0]) if len(exact) == 1 else None
        if not any(word[0].isalpha() for word in words):
            # A bare number is a value before it is a part of a name such as "35 W".
            return None
        wider = {
            (one.kind, one.value): one
            for known, ones in self._exact.items()
            if set(words) <= set(known)
            for one in ones
            if one.loose
        }
        return _said(next(iter(wider.values()))) if len(wider) == 1 else None

    def _in_two(self, words: Words) -> Says | None:
        """A label of two names, one after the other."""
        for at in range(1, len(words)):
            first, second = self._exact.get(words[:at], []), self._exact.get(words[at:], [])
            if len(first) == 1 and len(second) == 1 and first[0].kind != second[0].kind:
                return _said(first[0]).over(_said(second[0]))
        return None


def words_of(text: str) -> Words:
    """A text in small words and numbers: "1% Low" and "1 % low" are the same.

    >>> words_of("Reef-Walk 2, 1% low")
    ('reef', 'walk', '2', '1', '%', 'low')
    """
    return tuple(re.findall(r"\d+(?:[.,]\d+)?|[^\W\d_]+|%", text.replace(",", ".").lower()))


def _said(name: Name) -> Says:
    if name.kind == "test":
        return Says(test=int(name.value))
    if name.kind == "configuration":
        return Says(configuration=int(name.value))
    return Says(metric=str(name.value))
