"""Which results were measured before an update: under an image, a driver, a firmware or a version that is no longer the
last one. It is worked out when it is asked for, so that it is right at every moment."""

import re
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import Any

from nomothet.core.comparable import severity_of
from nomothet.core.notes import Note, note
from nomothet.core.settings import CATALOGUE
from nomothet.server.standings.models import LastTold, Result
from nomothet.server.systems.models import Bench, Configuration
from nomothet.server.systems.states import ConfigurationState, states
from nomothet.server.workloads.models import Workload
from nomothet.words.fingerprints import label_of, text_of_value

# What updates change, besides what the catalogue of settings has among system, drivers and firmware.
_UPDATED = ("image", "operating system", "graphics driver", "graphics_driver", "driver", "firmware", "kernel")
_GROUPS = ("system", "drivers")


def note_last_told(results: Iterable[Result]) -> None:
    """Keep what systems ran last, by what their passes tell."""
    latest: dict[tuple[int, str], tuple[datetime, str]] = {}
    for one in results:
        for key, value in told_of(one.fingerprint).items():
            at, _ = latest.get((one.system_id, key), (one.last_at, ""))
            if at <= one.last_at:
                latest[one.system_id, key] = (one.last_at, value)
    held = {
        (one.system_id, one.key): one for one in LastTold.objects.filter(system__in={system for system, _ in latest})
    }
    for (system, key), (at, value) in latest.items():
        before = held.get((system, key))
        if before is None:
            LastTold.objects.get_or_create(system_id=system, key=key, defaults={"value": value, "at": at})
        elif before.at < at:
            LastTold.objects.filter(pk=before.pk, at__lt=at).update(value=value, at=at)


def measured_before(
    results: Sequence[Result], known: Mapping[int, ConfigurationState] | None = None
) -> Mapping[int, list[Note]]:
    """What each result was measured before, by its key; those of now are missing. A handful of queries, however many
    they are; `known` are the states of their configurations, where somebody has read them already."""
    last = _last_told({one.system_id for one in results})
    own_configurations = {one.configuration_id: one.configuration for one in results}
    later = _later_revisions(set(own_configurations))
    editions = _editions({one.key for one in results})
    held = {**(states(own_configurations.values()) if known is None else known), **states(later.values())}
    found: dict[int, list[Note]] = {}
    for one in results:
        settings = held[one.configuration_id].settings
        notes = _by_machine(one, settings, last.get(one.system_id, {}))
        if revision := later.get(one.configuration_id):
            new = held[revision.pk].settings
            notes += [
                note("measured_before", label=label_of(key), own=text_of_value(value), now=text_of_value(new[key]))
                for key, value in settings.items()
                if key in new and value != new[key] and _is_updated(key)
            ]
        if newer := _newer_edition(one.workload, editions[one.key]):
            notes.append(note("measured_before_version", own=one.workload.version, now=newer.version))
        if notes:
            found[one.pk] = notes
    return found


def _by_machine(one: Result, chosen: Mapping[str, Any], last: Mapping[str, tuple[datetime, str]]) -> list[Note]:
    # What a configuration chooses is its own; another one of the machine may choose otherwise.
    return [
        note("measured_before", label=label_of(key), own=value, now=last[key][1])
        for key, value in told_of(one.fingerprint).items()
        if key in last and key not in chosen and last[key][0] > one.last_at and last[key][1] != value
    ]


def told_of(fingerprint: Mapping[str, Any]) -> dict[str, str]:
    """Of a fingerprint, what updates change; what its passes do not agree on is none."""
    return {
        key: str(value)[:200]
        for key, value in fingerprint.items()
        if _is_updated(key) and isinstance(value, str | int | float)
    }


def _is_updated(key: str) -> bool:
    if severity_of(key) == "blocks":
        return False
    return key in _UPDATED or (key in CATALOGUE and (CATALOGUE[key].group in _GROUPS or key == "firmware"))


def _last_told(systems: set[int]) -> dict[int, dict[str, tuple[datetime, str]]]:
    """What systems run now: what their benches have told, or their latest passes where that is later."""
    found: dict[int, dict[str, tuple[datetime, str]]] = defaultdict(dict)
    for one in LastTold.objects.filter(system__in=systems):
        found[one.system_id][one.key] = (one.at, one.value)
    for bench in Bench.objects.filter(system__in=systems, heard_at__isnull=False):
        assert bench.heard_at is not None
        for key, value in told_of(bench.inventory).items():
            known = found[bench.system_id].get(key)
            if known is None or known[0] < bench.heard_at:
                found[bench.system_id][key] = (bench.heard_at, value)
    return found


def _later_revisions(configurations: set[int]) -> dict[int, Configuration]:
    """The revision that took the place of each configuration, where one did."""
    later = Configuration.objects.filter(replaces__in=configurations)
    return {one.replaces_id: one for one in later if one.replaces_id is not None}


def _editions(keys: set[str]) -> dict[str, list[Workload]]:
    found: dict[str, list[Workload]] = defaultdict(list)
    for one in Workload.objects.filter(key__in=keys, archived_at=None).order_by("pk"):
        found[one.key].append(one)
    return found


def newest_editions(workloads: Sequence[Workload]) -> dict[int, Workload]:
    """The newer edition of each workload that has one, by the workload's key; one query."""
    editions = _editions({one.key for one in workloads})
    found = {one.pk: _newer_edition(one, editions[one.key]) for one in workloads}
    return {pk: newer for pk, newer in found.items() if newer is not None}


def _in_order(version: str) -> list[tuple[int, int, str]]:
    """A version by its numbers: 2.10 comes after 2.9.

    >>> _in_order("2.9") < _in_order("2.10"), _in_order("3") < _in_order("4")
    (True, True)
    """
    pieces = re.findall(r"\d+|[a-z]+", version.casefold())
    return [(1, int(piece), "") if piece.isdigit() else (0, 0, piece) for piece in pieces]


def _newer_edition(own: Workload, editions: Sequence[Workload]) -> Workload | None:
    """The newest edition, where it is newer and nobody has declared the two comparable.

    Newer is what was added later and does not say by its number that it is older: an earlier version may be added
    afterwards, to hold old results.
    """
    later = [one for one in editions if one.pk > own.pk and _in_order(one.version) >= _in_order(own.version)]
    last = max(later, key=lambda one: (_in_order(one.version), one.pk), default=None)
    if last is None:
        return None
    declared = {said["version"] for said in last.comparable} | {said["version"] for said in own.comparable}
    return None if {own.version, last.version} & declared else last
