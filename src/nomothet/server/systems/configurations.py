"""Changing configurations: the same as another, but …"""

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.db.models import Max, ProtectedError
from django.utils import timezone

from nomothet.core.errors import BadSlots
from nomothet.core.parts import KINDS, kind_of_place
from nomothet.core.quantities import Value
from nomothet.core.same_as import changes_from, lineage
from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import changed, remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.shelf.models import Part
from nomothet.server.systems.models import Configuration, Fitting, Observation, System
from nomothet.server.systems.own_settings import read_settings
from nomothet.server.systems.states import SLOT, Fit, population, read_slot_map, state_of

PLAIN = ("name", "note", "blocked")


def add_configuration(
    user: User | None,
    system: System,
    *,
    name: str,
    base: Configuration | None = None,
    settings: Mapping[str, Any] | None = None,
    fitted: Mapping[str, Any] | None = None,
    note: str = "",
    blocked: str = "",
) -> Configuration:
    """A configuration that is the same as `base` but for what is given, or one that stands for itself.

    Parameters
    ----------
    fitted : mapping of place to None or to {"part": id, "module": number or None}
    """
    if user is not None:
        require(user, Act.EDIT_SYSTEMS)
    _check_base(system, base)
    with transaction.atomic():
        _free_name(system, name)
        made = Configuration.objects.create(system=system, name=name, base=base, note=note, blocked=blocked)
        _store(made, read_settings(settings or {}), read_fitted(system, fitted or {}))
        remember(user, "configuration", made.pk, "added")
        announce("systems", system=system.pk)
    return made


def duplicate_configuration(user: User, configuration: Configuration) -> Configuration:
    """The same configuration under the next free name, so far without a difference."""
    number = 2
    while configuration.system.configurations.filter(name=f"{configuration.name} ({number})").exists():
        number += 1
    return add_configuration(
        user, configuration.system, name=f"{configuration.name} ({number})", base=configuration, note=configuration.note
    )


def is_frozen(configuration: Configuration) -> bool:
    """Whether it, or one that builds on it, has a pass on record."""
    family = configuration.system.configurations.values_list("pk", "base_id")
    bases = dict(family)
    tested = set(
        Configuration.objects.filter(system=configuration.system_id, column__passes__isnull=False).values_list(
            "pk", flat=True
        )
    )
    return any(configuration.pk in lineage(one, bases) for one in tested)


def edit_configuration(user: User, configuration: Configuration, changes: dict[str, Any]) -> Configuration:
    """Change a configuration; the caller has locked it and checked its version.

    A change of settings, parts or base of one with passes on record makes a new revision, which is returned; the old
    one stays as it was.
    """
    require(user, Act.EDIT_SYSTEMS)
    build: dict[str, Any] = {key: changes[key] for key in ("settings", "fitted", "base") if key in changes}
    plain: dict[str, Any] = {key: changes[key] for key in PLAIN if key in changes}
    with transaction.atomic():
        if build and is_frozen(configuration):
            return _revise(user, configuration, build, plain)
        before = snapshot(configuration)
        if "name" in plain and plain["name"] != configuration.name:
            _free_name(configuration.system, plain["name"])
        if "base" in build:
            _check_base(configuration.system, build["base"], configuration)
            configuration.base = build["base"]
        for field, value in plain.items():
            setattr(configuration, field, value)
        configuration.version += 1
        configuration.save()
        if "settings" in build or "fitted" in build:
            settings = read_settings(build["settings"]) if "settings" in build else configuration.settings
            fitted = (
                read_fitted(configuration.system, build["fitted"]) if "fitted" in build else own_fitted(configuration)
            )
            _store(configuration, settings, fitted)
        remember(user, "configuration", configuration.pk, "edited", changed(before, snapshot(configuration)))
        announce("systems", system=configuration.system_id)
    return configuration


def change_settings(user: User, configuration: Configuration, wanted: Mapping[str, Any]) -> Configuration:
    """Set single settings so that they hold whatever the base has; None takes one away. May make a revision."""
    require(user, Act.EDIT_SYSTEMS)
    inherited = state_of(configuration.base).settings if configuration.base else {}
    now = dict(state_of(configuration).settings)
    for key, value in read_settings(wanted).items():
        if value is None:
            now.pop(key, None)
        else:
            now[key] = value
    return edit_configuration(user, configuration, {"settings": changes_from(inherited, now)})


def _revise(user: User, old: Configuration, build: dict[str, Any], plain: dict[str, Any]) -> Configuration:
    """The next revision. It keeps the base of the old one, so that its differences read the same way."""
    if hasattr(old, "replaced_by"):
        raise conflict(f"{old.title} has a later revision already; change {old.replaced_by.title} instead.")
    highest = (
        old.system.configurations.filter(name=old.name).aggregate(Max("revision"))["revision__max"] or old.revision
    )
    if "base" in build:
        _check_base(old.system, build["base"], old)
    made = Configuration.objects.create(
        system=old.system,
        name=old.name,
        note=plain.get("note", old.note),
        blocked=plain.get("blocked", old.blocked),
        base=build.get("base", old.base),
        revision=highest + 1,
        replaces=old,
    )
    settings = read_settings(build["settings"]) if "settings" in build else old.settings
    fitted = read_fitted(old.system, build["fitted"]) if "fitted" in build else own_fitted(old)
    _store(made, settings, fitted)
    remember(user, "configuration", old.pk, "revised", {"revision": [old.revision, made.revision]})
    remember(user, "configuration", made.pk, "made as a revision", changed(snapshot(old), snapshot(made)))
    announce("systems", system=old.system_id)
    return made


def archive_configuration(user: User, configuration: Configuration, archived: bool) -> None:
    """Take a configuration out of the lists, or bring it back; reviews keep it."""
    require(user, Act.EDIT_SYSTEMS)
    with transaction.atomic():
        Configuration.objects.filter(pk=configuration.pk).update(archived_at=timezone.now() if archived else None)
        remember(user, "configuration", configuration.pk, "archived" if archived else "brought back")
        announce("systems", system=configuration.system_id)


def delete_configuration(user: User, configuration: Configuration) -> None:
    """Delete a configuration that no review and no other configuration refers to."""
    require(user, Act.EDIT_SYSTEMS)
    pk, system = configuration.pk, configuration.system_id
    try:
        with transaction.atomic():
            configuration.delete()
            remember(user, "configuration", pk, "deleted", {"name": [configuration.name, None]})
            announce("systems", system=system)
    except ProtectedError:
        raise conflict(
            f"A review or another configuration refers to {configuration.title}, so it cannot be deleted. "
            "Archive it instead."
        ) from None


def observe(user: User, configuration: Configuration, key: str, value: Any, source: str = "") -> Observation:
    """Note what was read off the machine."""
    require(user, Act.TICK_STEPS)
    read = read_settings({key: value})[key]
    with transaction.atomic():
        made = Observation.objects.create(
            configuration=configuration, key=key, value=read, by=user, **({"source": source} if source else {})
        )
        remember(user, "configuration", configuration.pk, "observed", {key: [None, read]})
        announce("systems", system=configuration.system_id)
    return made


def snapshot(configuration: Configuration) -> dict[str, Any]:
    """What history compares."""
    return {
        **{field: getattr(configuration, field) for field in PLAIN},
        "same as": configuration.base.title if configuration.base else "",
        **configuration.settings,
        **{place: None if fit is None else fit.words for place, fit in own_fitted(configuration).items()},
    }


def own_fitted(configuration: Configuration) -> dict[str, Fit | None]:
    """What sits otherwise than on the base."""
    return {
        fitting.place: Fit(fitting.part, fitting.module) if fitting.part else None
        for fitting in configuration.fittings.select_related("part")
    }


def read_fitted(system: System, given: Mapping[str, Any]) -> dict[str, Fit | None]:
    """Check what is to sit where: known places, parts of the right kind, each module of a kit once.

    Raises
    ------
    Problem
        422 with the place as the field.
    BadSlots
        When a slot does not exist on the board.
    """
    slots = {slot.name for slot in read_slot_map(system.slot_map).slots}
    wanted = {one["part"] for one in given.values() if one}
    parts = Part.objects.in_bulk(wanted)
    fitted: dict[str, Fit | None] = {}
    seen: dict[tuple[int, int], str] = {}
    for place, one in given.items():
        name = place.removeprefix(SLOT)
        if place.startswith(SLOT) and name not in slots:
            known = ", ".join(sorted(slots)) or "none"
            raise BadSlots(f"{system.name} has no slot {name}; its slots are {known}.", name)
        if one is None:
            fitted[place] = None
            continue
        part = parts.get(one["part"])
        if part is None:
            raise unusable(f"The part for {place} is not on the shelf; reload and choose again.", field=place)
        kind = "memory_kit" if place.startswith(SLOT) else kind_of_place(place)
        if kind in KINDS and part.kind != kind:
            raise unusable(
                f"{part.name} is a {KINDS[part.kind].label} and cannot sit at {place}; choose a {KINDS[kind].label}.",
                field=place,
            )
        fitted[place] = Fit(part, _module(place, part, one.get("module"), seen))
    return fitted


def _module(place: str, part: Part, module: int | None, seen: dict[tuple[int, int], str]) -> int | None:
    if not place.startswith(SLOT):
        return None
    count = part.value("modules")
    number = module or 1
    if isinstance(count, int) and not 1 <= number <= count:
        raise unusable(f"{part.name} has {count} modules; there is no module {number}.", field=place)
    other = seen.setdefault((part.pk, number), place)
    if other != place:
        raise unusable(
            f"Module {number} of {part.name} cannot sit in {other} and {place} at once; take another module.",
            field=place,
        )
    return number


def _store(configuration: Configuration, settings: dict[str, Value | None], fitted: Mapping[str, Fit | None]) -> None:
    configuration.settings = settings
    configuration.save(update_fields=["settings"])
    configuration.fittings.all().delete()
    Fitting.objects.bulk_create(
        Fitting(
            configuration=configuration, place=place, part=fit.part if fit else None, module=fit.module if fit else None
        )
        for place, fit in fitted.items()
    )
    # What the base adds may clash with what was given; the whole has to make sense.
    state = state_of(configuration)
    population(configuration.system, state.slots, state.settings)


def _check_base(system: System, base: Configuration | None, own: Configuration | None = None) -> None:
    if base is None:
        return
    if base.system_id != system.pk:
        raise unusable(
            f"{base.title} is a configuration of {base.system.name}; choose one of {system.name}.", field="base"
        )
    bases = dict(system.configurations.values_list("pk", "base_id"))
    if own is not None and own.pk in lineage(base.pk, bases):
        raise unusable(
            f"{base.title} is itself the same as {own.title}, so this would go in a circle; choose another base.",
            field="base",
        )


def _free_name(system: System, name: str) -> None:
    if system.configurations.filter(name=name).exists():
        raise unusable(f"{system.name} has a configuration named {name} already; choose another name.", field="name")
