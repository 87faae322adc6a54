"""What every load search has: the plan as settings of its tests, and the loads held as its metrics."""

from typing import Any

# The fields of core.load_search's plan that a test may set, with their labels; the load's own unit is put in.
_PLAN: tuple[tuple[str, str, str | None], ...] = (
    ("start", "start", None),
    ("resolution", "step", None),
    ("growth", "growth while nothing breaks", "×"),
    ("confirm", "times in a row", ""),
    ("ceiling", "highest load", None),
    ("soak_s", "soak before the hot check", "s"),
)
_METRICS = (("load_held", "load held", "load"), ("load_held_hot", "load held hot", "load hot"))


def with_search_fields(fields: dict[str, Any]) -> dict[str, Any]:
    """The fields of a load search, with what is missing of its plan's settings and of its metrics.

    What is there stays as it is: a setting by its key, a metric by its role.
    """
    settings, metrics = list(fields.get("settings") or []), list(fields.get("metrics") or [])
    unit = next((one["unit"] for one in metrics if one.get("role") in ("load", "load hot")), "")
    if not unit:
        unit = next((one.get("unit", "") for one in settings if one["key"] in ("start", "resolution")), "")
    known = {one["key"] for one in settings}
    if "rungs" not in known:
        settings += [
            {"key": key, "label": label, "unit": unit if own is None else own, "optional": key != "start"}
            for key, label, own in _PLAN
            if key not in known
        ]
        roles = {one.get("role") for one in metrics}
        metrics += [
            {"key": key, "label": label, "unit": unit, "direction": "higher", "scale": "ratio", "role": role}
            for key, label, role in _METRICS
            if role not in roles
        ]
    return {**fields, "settings": settings, "metrics": metrics}
