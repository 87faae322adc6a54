"""What holds for configurations once their bases are followed."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from nomothet.core.change_steps import Fitted, MachineState
from nomothet.core.differences import Aspect
from nomothet.core.docket_order import Setup
from nomothet.core.memory import Module, Population, Slot, SlotMap, SpeedLimit, check_slot_map, populate
from nomothet.core.parts import KINDS, kind_of_place, place_label
from nomothet.core.quantities import Value
from nomothet.core.same_as import resolve
from nomothet.core.settings import acted_on, setting_of
from nomothet.server.shelf.models import Part
from nomothet.server.systems.models import Configuration, Fitting, System

SLOT = "slot "


@dataclass(frozen=True)
class Fit:
    """A part at a place; for a memory slot which module of the kit it is, from 1."""

    part: Part
    module: int | None = None

    @property
    def words(self) -> str:
        count = self.part.value("modules")
        if self.module is None or not isinstance(count, int):
            return self.part.name
        return f"module {self.module} of {count}, {self.part.name}" if count > 1 else self.part.name


@dataclass(frozen=True)
class ConfigurationState:
    """A configuration as it is: what is set, and what sits where."""

    configuration: Configuration
    settings: dict[str, Value]
    fitted: dict[str, Fit]

    @property
    def parts(self) -> dict[str, Fit]:
        return {place: fit for place, fit in self.fitted.items() if not place.startswith(SLOT)}

    @property
    def slots(self) -> dict[str, Fit]:
        return {place.removeprefix(SLOT): fit for place, fit in self.fitted.items() if place.startswith(SLOT)}


def states(configurations: Iterable[Configuration]) -> dict[int, ConfigurationState]:
    """The states of configurations by their id; two queries whatever their number, and one more for each base of a
    base."""
    wanted = list(configurations)
    if not wanted:
        return {}
    family = _with_bases(wanted)
    changes: dict[int, dict[str, Fit | None]] = {pk: {} for pk in family}
    for fitting in Fitting.objects.filter(configuration__in=family).select_related("part"):
        changes[fitting.configuration_id][fitting.place] = Fit(fitting.part, fitting.module) if fitting.part else None
    bases = {pk: one.base_id for pk, one in family.items()}
    settings: dict[int, dict[str, Any]] = {pk: one.settings for pk, one in family.items()}
    return {
        one.pk: ConfigurationState(family[one.pk], resolve(one.pk, bases, settings), resolve(one.pk, bases, changes))
        for one in wanted
    }


def _with_bases(wanted: Iterable[Configuration]) -> dict[int, Configuration]:
    """Configurations as they are kept, and whatever they are based on."""
    found: dict[int, Configuration] = {}
    missing = {pk for one in wanted for pk in (one.pk, one.base_id) if pk is not None}
    while missing:
        found |= {one.pk: one for one in Configuration.objects.filter(pk__in=missing).select_related("system")}
        missing = {one.base_id for one in found.values() if one.base_id is not None} - found.keys()
    return found


def state_of(configuration: Configuration) -> ConfigurationState:
    return states([configuration])[configuration.pk]


def effective_settings(configuration: Configuration) -> dict[str, Value]:
    """All that is set on a configuration, its base's settings included."""
    return configuration.settings if configuration.base_id is None else state_of(configuration).settings


def read_slot_map(given: Mapping[str, Any]) -> SlotMap:
    """A slot map from its stored form.

    Raises
    ------
    BadSlots
        When it cannot be.
    """
    slots = SlotMap(
        slots=tuple(Slot(str(s["name"]), str(s["channel"]), int(s["fill"])) for s in given.get("slots", [])),
        max_gb=given.get("max_gb"),
        max_module_gb=given.get("max_module_gb"),
        speeds=tuple(SpeedLimit(int(s["modules_per_channel"]), float(s["rate_mts"])) for s in given.get("speeds", [])),
        takes_ecc=given.get("takes_ecc"),
    )
    check_slot_map(slots)
    return slots


def population(system: System, slots: Mapping[str, Fit], settings: Mapping[str, Value]) -> Population:
    """What the modules of a configuration amount to in the slots of its system."""
    rate = settings.get("memory_mts")
    modules = {
        name: Module(
            kit=fit.part.name,
            capacity_gb=_number(fit.part.value("module_gb")) or 0.0,
            rated_mts=_number(fit.part.value("rated_mts")),
            ranks=int(_number(fit.part.value("ranks")) or 0) or None,
            ecc=fit.part.value("ecc") is True if fit.part.value("ecc") is not None else None,
        )
        for name, fit in slots.items()
    }
    return populate(read_slot_map(system.slot_map), modules, _number(rate))


def aspects_of(state: ConfigurationState, system: System) -> tuple[dict[str, Value], dict[str, Aspect]]:
    """Everything in which a configuration can differ from another, by aspect, with what each aspect is."""
    values: dict[str, Value] = {"system": system.name}
    about: dict[str, Aspect] = {"system": Aspect("system", "system", group="parts", touches="system", opens=True)}
    for place, fit in state.parts.items():
        key = f"part.{place}"
        kind, label = KINDS.get(kind_of_place(place)), place_label(place)
        touches = acted_on(key)
        values[key] = fit.part.name
        opens = bool(kind and kind.opens)
        about[key] = Aspect(key, label, group="parts", parents=("system",), touches=touches, opens=opens)
        for one in fit.part.attributes:
            if one["value"] is not None:
                name = f"{key}.{one['key']}"
                values[name] = one["value"]
                about[name] = Aspect(name, f"{label}: {one['label']}", one["unit"], "parts",
                                     parents=(key, "system"), touches=touches)  # fmt: skip
    if state.slots:
        _memory_aspects(state, system, values, about)
    for key, value in state.settings.items():
        setting = setting_of(key)
        values[key] = value
        about[key] = Aspect(key, setting.spec.label, setting.spec.unit, setting.group, touches=setting.touches)
    return values, about


def _memory_aspects(
    state: ConfigurationState, system: System, values: dict[str, Value], about: dict[str, Aspect]
) -> None:
    found = population(system, state.slots, state.settings)
    kits = " + ".join(dict.fromkeys(fit.part.name for fit in state.slots.values()))
    rated = {fit.part.value("rated_mts") for fit in state.slots.values()} - {None}
    told: tuple[tuple[str, str, str, Value | None], ...] = (
        ("memory.kit", "memory kit", "", kits),
        ("memory.slots", "memory slots filled", "", ", ".join(sorted(state.slots))),
        ("memory.capacity_gb", "memory capacity", "GB", found.capacity_gb),
        ("memory.modules", "memory modules", "", found.modules),
        ("memory.channels", "memory channels in use", "", found.channels),
        ("memory.rated_mts", "memory rated speed", "MT/s", min(rated) if rated else None),  # type: ignore[type-var]
    )
    for key, label, unit, value in told:
        if value is not None:
            parents = ("system",) if key == "memory.kit" else ("memory.kit", "system")
            values[key] = value
            about[key] = Aspect(key, label, unit, "memory", parents, "memory", opens=key == "memory.kit")


def machine_state(state: ConfigurationState) -> MachineState:
    """A configuration as the steps of a change see it."""
    slots = {name: _fitted(fit, f"#{fit.module}") for name, fit in state.slots.items()}
    return MachineState({place: _fitted(fit) for place, fit in state.parts.items()}, slots, state.settings)


def _fitted(fit: Fit, suffix: str = "") -> Fitted:
    return Fitted(f"{fit.part.pk}{suffix}", fit.words, fit.part.kind)


def setup_of(state: ConfigurationState) -> Setup:
    """A configuration as the order of work sees it. What the runner of a pass sets costs nothing."""
    places = {place: (fit.part.pk, fit.module) for place, fit in state.fitted.items() if place != "memory_kit"}
    outside = {place for place in places if (kind := KINDS.get(kind_of_place(place))) and not kind.opens}
    where = {key: setting_of(key).where for key in state.settings}

    def chosen(kind: str) -> frozenset[tuple[str, object]]:
        return frozenset((key, str(value)) for key, value in state.settings.items() if where[key] == kind)

    return Setup(
        key=state.configuration.pk,
        hardware=frozenset((place, fit) for place, fit in places.items() if place not in outside),
        firmware=chosen("firmware"),
        settings=chosen("system") | frozenset((place, places[place]) for place in outside),
    )


def _number(value: object) -> float | None:
    return float(value) if isinstance(value, int | float) and not isinstance(value, bool) else None
