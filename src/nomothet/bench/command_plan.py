"""How a job is started: a shipped workload, or a command that an admin has approved for this bench.

A command is a list of words. Settings go into them as they are, word by word, and never through a shell. A setting is
one of the values that were approved with the command, and makes no option of a word that it begins.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from nomothet.bench.errors import BenchError
from nomothet.bench.job import Job
from nomothet.bench.runners import command_for

COMMAND_RUNNER = "command"
_PLACE = re.compile(r"\{([a-z][a-z0-9_]*)\}")
# What a program may take for an option; a negative number is none.
_OPTION = re.compile(r"[-@](?!\d+(?:[.,]\d+)?$)")
_SILENT_S = 60.0


@dataclass(frozen=True)
class CommandPlan:
    """Everything about starting and ending a workload.

    Attributes
    ----------
    silent_s : float
        Neither a line nor processor time for so long counts as hung.
    warm_ups : int
        Runs before the one that counts; nothing of them is kept.
    cool_to_c : float or None
        Wait for this temperature before the run, `cool_most_s` at most.
    files : list of str
        Files in the working directory that the reading rules read besides the output.
    """

    argv: list[str]
    environment: dict[str, str] = field(default_factory=dict)
    directory: Path | None = None
    time_limit_s: float | None = None
    silent_s: float = _SILENT_S
    nice: int = 0
    prepare: list[list[str]] = field(default_factory=list)
    clean_up: list[list[str]] = field(default_factory=list)
    warm_ups: int = 0
    cool_to_c: float | None = None
    cool_most_s: float = 600.0
    cool_s: float = 0.0
    files: list[str] = field(default_factory=list)


def plan_of(job: Job, *, commands_allowed: bool, silent_s: float = _SILENT_S) -> CommandPlan:
    """The plan of a job.

    Raises
    ------
    BenchError
        When the bench may not run it, or a setting that the command names is missing or no plain value.
    """
    if job.runner != COMMAND_RUNNER:
        return CommandPlan(command_for(job.runner, job.settings), silent_s=silent_s)
    if not commands_allowed:
        raise BenchError("this bench runs shipped workloads only; start it with --allow-commands to run approved ones")
    if not job.command or not job.command.get("arguments"):
        raise BenchError("the server sent no command: an admin has not approved this workload for this bench")
    given = job.command
    values = _Values({**job.configured, **job.settings}, job.allowed)
    directory = given.get("directory")
    return CommandPlan(
        argv=_words(given["arguments"], values),
        environment={name: _filled(text, values) for name, text in given.get("environment", {}).items()},
        directory=Path(directory).expanduser() if directory else None,
        time_limit_s=given.get("time_limit_s"),
        silent_s=given.get("silent_s") or silent_s,
        nice=given.get("nice") or 0,
        prepare=[_words(words, values) for words in given.get("prepare", [])],
        clean_up=[_words(words, values) for words in given.get("clean_up", [])],
        warm_ups=given.get("warm_ups") or 0,
        cool_to_c=given.get("cool_to_c"),
        cool_most_s=given.get("cool_most_s") or 600.0,
        cool_s=given.get("cool_s") or 0.0,
        files=[str(name) for name in given.get("files", [])],
    )


@dataclass(frozen=True)
class _Values:
    """What stands for the placeholders of a job, and what may."""

    given: Mapping[str, Any]
    allowed: Mapping[str, list[Any] | None]


def _words(words: list[str], values: _Values) -> list[str]:
    return [_filled(word, values) for word in words]


def _filled(word: str, values: _Values) -> str:
    """A word with its settings; `{size}` stands for the setting of that name."""

    def value(found: re.Match[str]) -> str:
        key = found[1]
        if key not in values.given:
            raise BenchError(f"the command names the setting {key!r}, which this test does not have")
        given, listed = values.given[key], values.allowed.get(key)
        if isinstance(given, dict | list) or "\0" in str(given):
            raise BenchError(f"the setting {key!r} is no plain value and cannot stand in a command")
        if listed and given not in listed:
            raise BenchError(f"the setting {key!r} is {given!r}, which was not approved with the command")
        return str(given)

    filled = _PLACE.sub(value, word)
    first = _PLACE.match(word)
    if first and _OPTION.match(filled) and any(not values.allowed.get(key) for key in _PLACE.findall(word)):
        raise BenchError(
            f"with the setting {first[1]!r} the word {word!r} becomes {filled!r}, an option of the command"
        )
    return filled
