"""What is known of results beside their figures, to choose among them: parts, attributes, settings, images, reviews."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from nomothet.core.errors import BadSlots
from nomothet.core.quantities import Spec, text_of
from nomothet.server.reviews.models import Review
from nomothet.server.standings.held import Held
from nomothet.server.standings.measured_before import told_of
from nomothet.server.systems.models import Configuration
from nomothet.server.systems.states import ConfigurationState, aspects_of, states
from nomothet.server.workloads.models import Workload
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


def facts(results: Sequence[Held]) -> list[Fact]:
    """In what results differ, with the values of each, those of most results first."""
    labels: dict[str, str] = {}
    counted: dict[str, Counter[str]] = {}

    def count(told: Mapping[str, _Told], times: int) -> None:
        for key, one in told.items():
            labels[key] = one.label
            counted.setdefault(key, Counter())[one.text] += times

    known = _Known(results)
    for pk, times in Counter(one.configuration_id for one in results).items():
        count(known.of_configurations[pk], times)
    for one in results:
        count(known.own(one), 1)
    found = [
        Fact(key, labels[key], [FactValue(*one) for one in values.most_common(MOST_VALUES)])
        for key, values in counted.items()
        if len(values) > 1 or values.total() < len(results)
    ]
    return sorted(found, key=lambda one: one.label.casefold())


def having(results: Sequence[Held], wanted: Iterable[tuple[str, str]]) -> list[Held]:
    """The results of which all of these hold."""
    pairs = list(wanted)
    known = _Known(results)

    def holds(one: Held) -> bool:
        told = {**known.of_configurations[one.configuration_id], **known.own(one)}
        return all(key in told and told[key].text == value for key, value in pairs)

    return [one for one in results if holds(one)]


class _Known:
    """What is known of results; each configuration is looked at once, however many results it has."""

    def __init__(self, results: Sequence[Held]) -> None:
        configurations = Configuration.objects.in_bulk({one.configuration_id for one in results})
        self.of_configurations = {pk: _of_configuration(one) for pk, one in states(configurations.values()).items()}
        self._versions = dict(
            Workload.objects.filter(pk__in={one.workload_id for one in results}).values_list("pk", "version")
        )
        self._questions = dict(
            Review.objects.filter(pk__in={one.review_id for one in results}).values_list("pk", "question")
        )

    def own(self, one: Held) -> Mapping[str, _Told]:
        """What a result has of its own, beside what its configuration tells."""
        told = {key: _Told(label_of(key), value) for key, value in told_of(one.core.fingerprint).items()}
        told["version"] = _Told("version of the workload", self._versions[one.workload_id])
        told["review"] = _Told("review", self._questions[one.review_id])
        return told


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
