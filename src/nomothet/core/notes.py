"""What the core finds, as a code with its values; `nomothet.words` makes sentences of it."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Note:
    """A code, and the values that its sentence needs; values are plain data."""

    code: str
    values: Mapping[str, Any] = field(default_factory=dict)


def note(code: str, **values: Any) -> Note:
    """A note with its values.

    >>> note("held_at", fps=60.0)
    Note(code='held_at', values={'fps': 60.0})
    """
    return Note(code, values)
