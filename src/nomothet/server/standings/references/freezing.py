"""Results as a reference keeps them, and read back from it."""

import hashlib
import json
from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import Any

from nomothet.server.reviews.models import Column
from nomothet.server.standings.models import Reference, Result
from nomothet.server.systems.models import System
from nomothet.server.workloads.models import Workload

_FIELDS = (
    "key", "settings", "settings_words", "metric", "leads", "label", "unit", "direction", "scale", "n", "centre", "low",
    "high", "content", "fingerprint",
)  # fmt: skip
_TIMES = ("first_at", "last_at")


def frozen(results: Iterable[Result]) -> dict[str, Any]:
    """What a reference keeps of results, which have to be of one column."""
    held = list(results)
    first = held[0]
    return {
        "column": first.column.label,
        "system": first.system.name,
        "configuration": first.configuration.title,
        "revision": first.configuration.revision,
        "review": first.review.question,
        "results": [_frozen(one) for one in held],
    }


def _frozen(one: Result) -> dict[str, Any]:
    kept = {name: getattr(one, name) for name in _FIELDS}
    times = {name: getattr(one, name).isoformat() for name in _TIMES}
    edition = {"version": one.workload.version, "comparable": one.workload.comparable}
    return {**kept, **times, **edition, "test": one.test_id, "name": one.workload.name}


def thawed(reference: Reference) -> list[Result]:
    """The results of a reference, as they were; none of them is stored."""
    content = reference.content
    # No column of any review has such a key.
    system, column = System(name=content["system"]), Column(pk=-reference.pk, label=content["column"])
    return [_thawed(one, system, column) for one in content["results"]]


def _thawed(one: Mapping[str, Any], system: System, column: Column) -> Result:
    found = Result(**{name: one[name] for name in _FIELDS})
    for name in _TIMES:
        setattr(found, name, datetime.fromisoformat(one[name]))
    found.system, found.column = system, column
    found.workload = Workload(key=one["key"], name=one["name"], version=one["version"], comparable=one["comparable"])
    found.test_id = one["test"]
    return found


def seal_of(content: Mapping[str, Any]) -> str:
    """SHA-256 of the content in one fixed order, in hex."""
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()
