"""What is to be done for one pass by hand, in order: look, set, run, end."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from nomothet.server.docket.models import Entry
from nomothet.server.reviews.models import Test
from nomothet.server.systems.models import System

# The order in which the steps of a workload are done; what its author calls otherwise stands where it was put.
_ORDER = {"scene": 0, "route": 0, "input": 0, "warm-up": 1, "end": 4, "duration": 3}
_OTHER = 2


@dataclass(frozen=True)
class Step:
    """One thing to do. `reading` names what is read off, where it asks for a value of at most `at_most`.

    `kind` is "check", "setting", or that of the workload's own step.
    """

    key: str
    kind: str
    words: str
    reading: str = ""
    unit: str = ""
    at_most: float | None = None
    seconds: float | None = None


def steps_of(entry: Entry) -> list[Step]:
    """The steps of a pass: checks that are looked at each time, settings of the test, then the workload's own."""
    test, system = entry.test, entry.column.configuration.system
    return [*_checks(system, test), *_settings(test), *_procedure(test)]


def _checks(system: System, test: Test) -> Iterator[Step]:
    each = {check["key"]: check for check in [*system.checks, *test.workload.checks] if check.get("each_pass")}
    for key, check in each.items():
        yield Step(
            f"check:{key}",
            "check",
            check["words"],
            check.get("reading", ""),
            check.get("unit", ""),
            check.get("at_most"),
        )


def _settings(test: Test) -> Iterator[Step]:
    known = {one["key"]: one for one in test.workload.settings}
    for key, value in test.settings.items():
        told = known.get(key, {})
        shown = " ".join(filter(None, [_text(value), told.get("unit", "")]))
        yield Step(f"setting:{key}", "setting", f"{told.get('label', key)}: {shown}")


def _text(value: object) -> str:
    return {True: "on", False: "off"}.get(value, str(value)) if isinstance(value, bool) else str(value)


def _procedure(test: Test) -> Iterator[Step]:
    workload = test.workload
    own: list[Mapping[str, Any]] = list(workload.steps)
    kinds = {step["kind"] for step in own}
    if not own and workload.procedure:
        yield Step("procedure", "other", workload.procedure)
    if workload.warm_up_s and "warm-up" not in kinds:
        own.append({"kind": "warm-up", "words": "Let it warm up", "seconds": workload.warm_up_s})
    if workload.duration_s and "duration" not in kinds:
        own.append({"kind": "duration", "words": "Let it run", "seconds": workload.duration_s})
    order = sorted(enumerate(own), key=lambda one: (_ORDER.get(one[1]["kind"], _OTHER), one[0]))
    for at, step in order:
        yield Step(f"step:{at}", step["kind"], step["words"], seconds=step.get("seconds"))
