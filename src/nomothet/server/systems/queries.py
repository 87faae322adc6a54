"""Systems as the screens show them."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Count, Q

from nomothet.core.change_steps import disagrees
from nomothet.core.memory import Population, RateReading, first_slots, transfer_rate
from nomothet.core.notes import note
from nomothet.core.parts import place_label
from nomothet.core.quantities import Value, text_of
from nomothet.core.same_as import lineage
from nomothet.core.settings import GROUPS, setting_of
from nomothet.server.systems.clocks import clock_doubt
from nomothet.server.systems.models import Configuration, Fitting, Observation, System
from nomothet.server.systems.states import SLOT, ConfigurationState, Fit, population, read_slot_map, states
from nomothet.words import say
from nomothet.words.slots import slot_remedy, slot_words


@dataclass(frozen=True)
class FitShape:
    """What sits at a place. `own` when the configuration says so itself rather than its base."""

    place: str
    label: str
    part: int | None
    name: str
    module: int | None
    own: bool


@dataclass(frozen=True)
class SettingShape:
    """A setting in its three values: rated by the part, set, and last observed; `flag` says what does not agree."""

    key: str
    label: str
    group: str
    unit: str
    where: str
    rated: Any
    value: Any
    observed: Any
    observed_source: str
    own: bool
    flag: str


@dataclass(frozen=True)
class ChangeShape:
    """One difference from the base, in words."""

    key: str
    label: str
    before: str
    after: str


@dataclass(frozen=True)
class MistakeShape:
    kind: str
    slots: list[str]
    words: str
    remedy: str


@dataclass(frozen=True)
class PopulationShape:
    """What the modules in their slots amount to, with mistakes, and where so many modules belong."""

    modules: int
    capacity_gb: float
    channels: int
    channels_of: int
    rate_mts: float | None
    peak_gbs: float | None
    best_slots: list[str]
    mistakes: list[MistakeShape]


@dataclass(frozen=True)
class ConfigurationShape:
    """A configuration as what it is and as what differs from its base; `version` is what If-Match wants."""

    id: int
    name: str
    title: str
    note: str
    base: int | None
    revision: int
    replaced_by: int | None
    blocked: str
    frozen: bool
    archived_at: datetime | None
    version: int
    settings: dict[str, Any]
    settings_table: list[SettingShape]
    fitted: list[FitShape]
    changes: list[ChangeShape]
    population: PopulationShape | None
    used_in: list[str]


@dataclass(frozen=True)
class SlotShape:
    name: str
    channel: str
    fill: int


@dataclass(frozen=True)
class SystemShape:
    """A system with its bench, as of now."""

    id: int
    key: str
    name: str
    description: str
    simulated: bool
    has_bench: bool
    token_issued_at: datetime | None
    heard_at: datetime | None
    inventory: dict[str, Any]
    configurations: int
    present: str
    origin: str
    archived_at: datetime | None
    mistakes: int


@dataclass(frozen=True)
class PassOnBench:
    """A pass that the server would not take, kept by its bench."""

    id: str
    reason: str
    at: datetime


@dataclass(frozen=True)
class SystemDetail:
    """A system with everything that is set up on it; `version` is what If-Match wants."""

    id: int
    key: str
    name: str
    description: str
    simulated: bool
    has_bench: bool
    token_issued_at: datetime | None
    heard_at: datetime | None
    inventory: dict[str, Any]
    # What its bench has set aside, and when a second bench with the same token was last turned away.
    set_aside: list[PassOnBench]
    rival_at: datetime | None
    # What is wrong with its clock, in words.
    clock_doubt: str
    slot_map: dict[str, Any]
    slots: list[SlotShape]
    connectors: list[str]
    origin: str
    origin_note: str
    changes_by: str
    on_mismatch: str
    checks: list[dict[str, Any]]
    present: int | None
    archived_at: datetime | None
    version: int
    configurations: list[ConfigurationShape]


def systems(archived: bool = False) -> list[SystemShape]:
    """All systems; five queries whatever their number."""
    found = System.objects.select_related("bench", "present").order_by("simulated", "name")
    live = Count("configurations", filter=Q(configurations__archived_at=None))
    counted = (found if archived else found.filter(archived_at=None)).annotate(live=live)
    mistakes = _mistakes()
    return [_item(system, mistakes.get(system.pk, 0)) for system in counted]


def _mistakes() -> dict[int, int]:
    """What is wrong with where memory modules sit, by system; only of those that have any is the state worked out."""
    with_modules = Fitting.objects.filter(place__startswith=SLOT).values("configuration__system").distinct()
    held = states(Configuration.objects.filter(system__in=with_modules))
    found: dict[int, int] = defaultdict(int)
    for state in held.values():
        one = state.configuration
        if state.slots and one.archived_at is None:
            found[one.system_id] += len(population(one.system, state.slots, state.settings).mistakes)
    return found


def _item(system: System, mistakes: int) -> SystemShape:
    bench = getattr(system, "bench", None)
    return SystemShape(
        id=system.pk,
        key=system.key,
        name=system.name,
        description=system.description,
        simulated=system.simulated,
        has_bench=bench is not None,
        token_issued_at=bench.issued_at if bench else None,
        heard_at=bench.heard_at if bench else None,
        inventory=bench.inventory if bench else {},
        configurations=system.live,  # type: ignore[attr-defined]
        present=system.present.title if system.present else "",
        origin=system.origin,
        archived_at=system.archived_at,
        mistakes=mistakes,
    )


def system_detail(system: System) -> SystemDetail:
    """One system; nine queries whatever the number of its configurations."""
    bench = getattr(system, "bench", None)
    slots = read_slot_map(system.slot_map).slots
    return SystemDetail(
        id=system.pk,
        key=system.key,
        name=system.name,
        description=system.description,
        simulated=system.simulated,
        has_bench=bench is not None,
        token_issued_at=bench.issued_at if bench else None,
        heard_at=bench.heard_at if bench else None,
        set_aside=[PassOnBench(**one) for one in bench.set_aside] if bench else [],
        rival_at=bench.rival_at if bench else None,
        clock_doubt=say(doubt) if bench and (doubt := clock_doubt(bench)) else "",
        inventory=bench.inventory if bench else {},
        slot_map=system.slot_map,
        slots=[SlotShape(slot.name, slot.channel, slot.fill) for slot in slots],
        connectors=system.connectors,
        origin=system.origin,
        origin_note=system.origin_note,
        changes_by=system.changes_by,
        on_mismatch=system.on_mismatch,
        checks=system.checks,
        present=system.present_id,
        archived_at=system.archived_at,
        version=system.version,
        configurations=configurations(system),
    )


def configurations(system: System) -> list[ConfigurationShape]:
    """All configurations of a system, the first of a name before its revisions."""
    found = list(
        system.configurations.prefetch_related("fittings", "column_set__review")
        .select_related("replaced_by")
        .order_by("pk")
    )
    held = states(found)
    seen = observed(found)
    bases = {one.pk: one.base_id for one in found}
    tested = set(Configuration.objects.filter(system=system, column__passes__isnull=False).values_list("pk", flat=True))
    frozen = {ancestor for one in tested for ancestor in lineage(one, bases)}
    return [_configuration(system, one, held, seen.get(one.pk, {}), one.pk in frozen) for one in found]


@dataclass(frozen=True)
class Seen:
    """An observed value with where it comes from."""

    value: Value
    source: str


def observed(configurations: list[Configuration]) -> dict[int, dict[str, Seen]]:
    """What was last observed on each configuration: by its passes, and by whoever read it off since; two queries."""
    pks = [one.pk for one in configurations]
    latest: dict[int, dict[str, tuple[datetime, Seen]]] = {}
    for pk, by_key in Configuration.objects.filter(pk__in=pks).values_list("pk", "observed"):
        for key, told in by_key.items():
            at = datetime.fromisoformat(told["at"])
            latest.setdefault(pk, {})[key] = (at, Seen(told["value"], "the bench"))
    for one in Observation.objects.filter(configuration__in=pks):
        before = latest.setdefault(one.configuration_id, {}).get(one.key)
        if before is None or before[0] <= one.at:
            latest[one.configuration_id][one.key] = (one.at, Seen(one.value, one.source))
    return {pk: {key: seen for key, (_, seen) in values.items()} for pk, values in latest.items()}


def reading_of(key: str, value: Value, wanted: Value | None) -> RateReading | None:
    """Whether an observed memory speed is half of what is set because a tool shows the clock."""
    if key != "memory_mts" or not isinstance(value, int | float) or not isinstance(wanted, int | float):
        return None
    return transfer_rate(value, wanted) if value > 0 and wanted > 0 else None


def mismatch(key: str, wanted: Value | None, seen: Value) -> str:
    """What an observed value says against the set one; empty when they agree."""
    if wanted is None:
        return ""
    rate = reading_of(key, seen, wanted)
    if disagrees(wanted, rate.rate_mts if rate else seen):
        spec = setting_of(key).spec
        return say(note("set_not_taken", label=spec.label, wanted=text_of(spec, wanted), seen=text_of(spec, seen)))
    return ""


def _configuration(
    system: System, one: Configuration, held: Mapping[int, ConfigurationState], seen: Mapping[str, Seen], frozen: bool
) -> ConfigurationShape:
    state = held[one.pk]
    base = held.get(one.base_id) if one.base_id else None
    own = {fitting.place for fitting in one.fittings.all()}
    replaced = getattr(one, "replaced_by", None)
    return ConfigurationShape(
        id=one.pk,
        name=one.name,
        title=one.title,
        note=one.note,
        base=one.base_id,
        revision=one.revision,
        replaced_by=replaced.pk if replaced else None,
        blocked=one.blocked,
        frozen=frozen,
        archived_at=one.archived_at,
        version=one.version,
        settings=state.settings,
        settings_table=_settings(state, seen),
        fitted=[fit_shape(place, fit, place in own) for place, fit in state.fitted.items()],
        changes=_changes(base, state) if base else [],
        population=population_shape(system, state.slots, state.settings) if state.slots else None,
        used_in=sorted({column.review.question for column in one.column_set.all()}),
    )


def fit_shape(place: str, fit: Fit, own: bool) -> FitShape:
    return FitShape(place, place_label(place), fit.part.pk, fit.part.name, fit.module, own)


def population_shape(system: System, slots: Mapping[str, Fit], settings: Mapping[str, Value]) -> PopulationShape:
    found: Population = population(system, slots, settings)
    board = read_slot_map(system.slot_map)
    return PopulationShape(
        modules=found.modules,
        capacity_gb=found.capacity_gb,
        channels=found.channels,
        channels_of=len(board.channels),
        rate_mts=found.rate_mts,
        peak_gbs=found.peak_gbs,
        best_slots=first_slots(board, found.modules),
        mistakes=[MistakeShape(m.kind, list(m.slots), slot_words(m), slot_remedy(m)) for m in found.mistakes],
    )


def _settings(state: ConfigurationState, seen: Mapping[str, Seen]) -> list[SettingShape]:
    rows = []
    for key in dict.fromkeys([*state.settings, *seen]):
        setting, value = setting_of(key), state.settings.get(key)
        rated = _rated(state, setting.rated)
        observation = seen.get(key)
        flags = []
        if observation is not None and mismatch(key, value, observation.value):
            tolerance = " by more than 5 %" if isinstance(value, int | float) and not isinstance(value, bool) else ""
            flags.append(f"observed differs from what was set{tolerance}")
        if isinstance(rated, int | float) and isinstance(value, int | float) and value < rated:
            flags.append("set under the rating")
        rows.append(
            SettingShape(
                key=key,
                label=setting.spec.label,
                group=GROUPS[setting.group],
                unit=setting.spec.unit,
                where=setting.where,
                rated=rated,
                value=value,
                observed=observation.value if observation else None,
                observed_source=observation.source if observation else "",
                own=key in state.configuration.settings,
                flag="; ".join(flags),
            )
        )
    order = list(GROUPS.values())
    return sorted(rows, key=lambda row: order.index(row.group))


def _rated(state: ConfigurationState, rated: tuple[str, str] | None) -> Value | None:
    if rated is None:
        return None
    kind, attribute = rated
    for fit in state.fitted.values():
        if fit.part.kind == kind and fit.part.value(attribute) is not None:
            return fit.part.value(attribute)
    return None


def _changes(base: ConfigurationState, state: ConfigurationState) -> list[ChangeShape]:
    found = []
    for key in dict.fromkeys([*base.settings, *state.settings]):
        before, after = base.settings.get(key), state.settings.get(key)
        if before != after:
            spec = setting_of(key).spec
            found.append(ChangeShape(key, spec.label, text_of(spec, before), text_of(spec, after)))
    for place in dict.fromkeys([*base.fitted, *state.fitted]):
        old, new = base.fitted.get(place), state.fitted.get(place)
        if (old and (old.part.pk, old.module)) != (new and (new.part.pk, new.module)):
            found.append(
                ChangeShape(place, place_label(place), old.words if old else "empty", new.words if new else "empty")
            )
    return found
