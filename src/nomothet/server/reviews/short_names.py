"""What tests are called under the name of their workload: by what differs between them, and nothing else."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from nomothet.server.reviews.models import Test

_MISSING = object()


def short_names(tests: Iterable[Test]) -> dict[int, str]:
    """A short name for each test by its id; empty where a workload has a single test.

    A value that speaks for itself stands alone, others with the name of their setting. Where the settings of two tests
    are the same, their details tell them apart, else their place.
    """
    by_workload: dict[int, list[Test]] = defaultdict(list)
    for test in tests:
        by_workload[test.workload_id].append(test)
    found: dict[int, str] = {}
    for own in by_workload.values():
        found |= {own[0].pk: ""} if len(own) == 1 else _told_apart(own)
    return found


def _told_apart(tests: Sequence[Test]) -> dict[int, str]:
    keys = dict.fromkeys(key for test in tests for key in test.settings)
    differing = [key for key in keys if len({repr(test.settings.get(key, _MISSING)) for test in tests}) > 1]
    specs = {spec["key"]: spec for spec in tests[0].workload.settings}
    ordered = sorted(differing, key=lambda key: list(specs).index(key) if key in specs else len(specs))
    names = {
        test.pk: ", ".join(
            _word(specs.get(key, {}), key, test.settings[key]) for key in ordered if key in test.settings
        )
        for test in tests
    }
    if len(set(names.values())) < len(names):
        names = {test.pk: names[test.pk] or test.detail or f"test {test.position + 1}" for test in tests}
    if len(set(names.values())) < len(names):
        names = {test.pk: f"{names[test.pk]} ({test.position + 1})" for test in tests}
    return names


def _word(spec: Mapping[str, Any], key: str, value: Any) -> str:
    label, unit = spec.get("label", key.replace("_", " ")), spec.get("unit", "")
    if isinstance(value, bool):
        return f"{label} {'on' if value else 'off'}"
    if value == 0 and unit:
        return f"no {label}"
    if isinstance(value, str):
        return f"{label} {value}" if value.lower() in ("on", "off", "yes", "no", "low", "medium", "high") else value
    return f"{label} {value} {unit}".strip()
