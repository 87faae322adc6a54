"""What is known of results beside their figures, to choose among them: parts, attributes, settings, images, reviews."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.errors import BadSlots
from nomothet.core.quantities import Spec, text_of
from nomothet.server.standings.measured_before import told_of
from nomothet.server.standings.models import Result
from nomothet.server.systems.states import ConfigurationState, aspects_of, states
from nomothet.words.fingerprints import label_of

# Of each fact the values of most results; others are found by their words.
MOST_VALUES = 100
# Facts that have a control of their own.
_APART = {"system"}


@dataclass(frozen=True)
class FactValue:
    """A value as it is told, and how many results have it."""

    value: str
    results: int


@dataclass(frozen=True)
class Fact:
    """Something in which results differ. `key` and a value name a choice: "memory.channels=2"."""

    key: str
    label: str
    values: list[FactValue]


@dataclass(frozen=True)
class _Told:
    label: str
    text: str


def facts(results: Sequence[Result]) -> list[Fact]:
    """In what results differ, with the values of each, those of most results first."""
    labels: dict[str, str] = {}
    counted: dict[str, Counter[str]] = {}
    for told in _facts_of(results).values():
        for key, one in told.items():
            labels[key] = one.label
            counted.setdefault(key, Counter())[one.text] += 1
    found = [
        Fact(key, labels[key], [FactValue(*one) for one in values.most_common(MOST_VALUES)])
        for key, values in counted.items()
        if len(values) > 1 or values.total() < len(results)
    ]
    return sorted(found, key=lambda one: one.label.casefold())


def having(results: Sequence[Result], wanted: Iterable[tuple[str, str]]) -> list[Result]:
    """The results of which all of these hold."""
    pairs = list(wanted)
    told = _facts_of(results)
    return [one for one in results if all(key in told[one.pk] and told[one.pk][key].text == v for key, v in pairs)]


def _facts_of(results: Sequence[Result]) -> dict[int, dict[str, _Told]]:
    held = states({one.configuration_id: one.configuration for one in results}.values())
    of_configurations = {pk: _of_configuration(state) for pk, state in held.items()}
    return {one.pk: {**of_configurations[one.configuration_id], **_own(one)} for one in results}


def _of_configuration(state: ConfigurationState) -> Mapping[str, _Told]:
    system = state.configuration.system
    try:
        values, about = aspects_of(state, system)
    except BadSlots:
        # Slots that the system no longer has say nothing; parts and settings do.
        values, about = aspects_of(ConfigurationState(state.configuration, state.settings, state.parts), system)
    told = {
        key: _Told(about[key].label, text_of(Spec(key, about[key].label, unit=about[key].unit), value))
        for key, value in values.items()
        if key not in _APART
    }
    told["machine"] = _Told("kind of machine", "simulated" if system.simulated else "real")
    if system.origin != "not said":
        told["origin"] = _Told("where the machine is from", system.origin)
    return told


def _own(one: Result) -> Mapping[str, _Told]:
    told = {key: _Told(label_of(key), value) for key, value in told_of(one.fingerprint).items()}
    told["version"] = _Told("version of the workload", one.workload.version)
    told["review"] = _Told("review", one.review.question)
    return told
