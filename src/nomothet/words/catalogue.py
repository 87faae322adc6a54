"""Sentences by code."""

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from nomothet.core.notes import Note
from nomothet.words import (
    book,
    claims,
    clocks,
    comparisons,
    economy,
    evidence,
    finding_conditions,
    finding_limits,
    findings,
    fit,
    flags,
    installation,
    ladders,
    limits,
    memory,
    pictures,
    plan,
    readings,
    recorder,
    recordings,
    sensors,
    slots,
    stability,
    standings,
    steps,
    targets,
    verdicts,
    workloads,
)

Sentence = Callable[..., str]

_SOURCES: tuple[Mapping[str, Sentence], ...] = (
    book.SENTENCES,
    claims.SENTENCES,
    clocks.SENTENCES,
    comparisons.SENTENCES,
    economy.SENTENCES,
    evidence.SENTENCES,
    finding_conditions.SENTENCES,
    finding_limits.SENTENCES,
    findings.SENTENCES,
    fit.SENTENCES,
    flags.SENTENCES,
    installation.SENTENCES,
    ladders.SENTENCES,
    limits.SENTENCES,
    memory.SENTENCES,
    pictures.SENTENCES,
    plan.SENTENCES,
    readings.SENTENCES,
    recorder.SENTENCES,
    recordings.SENTENCES,
    sensors.SENTENCES,
    slots.SENTENCES,
    stability.SENTENCES,
    standings.SENTENCES,
    steps.SENTENCES,
    targets.SENTENCES,
    verdicts.SENTENCES,
    workloads.SENTENCES,
)
CATALOGUE: Mapping[str, Sentence] = {code: sentence for one in _SOURCES for code, sentence in one.items()}


def say(note: Note) -> str:
    """The sentence of a note.

    Raises
    ------
    KeyError
        When no sentence is known for its code: a mistake of the program, found by the test that says every code.

    Examples
    --------
    >>> from nomothet.core.notes import note
    >>> say(note("factors_disagree", tests=["walk", "flight"]))
    'walk and flight disagree by more than their intervals: one correction does not fit both'
    """
    return CATALOGUE[note.code](**note.values)


def says(notes: Iterable[Note]) -> list[str]:
    """The sentences of several notes."""
    return [say(note) for note in notes]


def say_stored(stored: Mapping[str, Any] | None) -> str:
    """The sentence of a note that was kept as plain data; empty for none."""
    return "" if not stored else say(Note(stored["code"], stored["values"]))
