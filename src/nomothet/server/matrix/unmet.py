"""What workloads ask for and configurations lack, by test and column."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.plan_check import Requirement, lacks, number_of
from nomothet.core.quantities import Value
from nomothet.server.reviews.models import Column, Test
from nomothet.server.systems.states import ConfigurationState, aspects_of


@dataclass(frozen=True)
class Unmet:
    """A requirement that a configuration does not meet; `has` is None for a feature that it lacks."""

    aspect: str
    label: str
    least: float | None
    unit: str
    has: float | None


# By test and column.
Lacking = Mapping[tuple[int, int], Sequence[Unmet]]


def unmet(tests: Sequence[Test], columns: Sequence[Column], held: Mapping[int, ConfigurationState]) -> Lacking:
    """Requirements that are not met.

    Parameters
    ----------
    held : mapping of configuration id to ConfigurationState
        What the configurations of the columns are.
    """
    asking = [(test, requirements_of(test)) for test in tests if test.workload.requirements]
    if not asking:
        return {}
    told = {one.pk: _told(held[one.configuration_id]) for one in columns}
    found: dict[tuple[int, int], list[Unmet]] = {}
    for test, needs in asking:
        for column in columns:
            for need in needs:
                if lacks(told[column.pk], need):
                    has = None if need.least is None else number_of(told[column.pk], need.aspect)
                    one = Unmet(need.aspect, need.label, need.least, need.unit, has)
                    found.setdefault((test.pk, column.pk), []).append(one)
    return found


def _told(state: ConfigurationState) -> Mapping[str, Value]:
    return aspects_of(state, state.configuration.system)[0]


def requirements_of(test: Test) -> list[Requirement]:
    """What the workload of a test asks of a machine."""
    return [
        Requirement(one["aspect"], one["label"], one.get("least"), one.get("unit", ""))
        for one in test.workload.requirements
    ]
