"""Whether a pass ran on the machine that its configuration claims: settings against what was read, parts against what
was found."""

from collections.abc import Mapping
from typing import Any

from nomothet.server.passes.models import Pass
from nomothet.server.systems.queries import mismatch
from nomothet.server.systems.states import ConfigurationState

# A module's size is exact; firmware and graphics take a part of what a system shows in all.
_SAME_SIZE, _LEAST_SHOWN = 0.01, 0.5
MEMORY = "memory fitted"


def not_as_claimed(owner: Pass, state: ConfigurationState) -> list[tuple[str, Any, Any]]:
    """What was found otherwise than the configuration says: key, what is claimed, and what was found.

    Numbers of a setting within 5 % of each other agree, as firmware rounds, and so does half of a memory speed, which
    is its clock.
    """
    environment = owner.environment if isinstance(owner.environment, dict) else {}
    set_ = environment.get("settings")
    claimed = set_ if isinstance(set_, dict) and set_ else state.settings
    told: dict[str, Any] = {}
    for held in ("read", "observed"):
        values = environment.get(held)
        told |= values if isinstance(values, dict) else {}
    found = [
        (key, claimed[key], value)
        for key, value in sorted(told.items())
        if value is not None and mismatch(key, claimed.get(key), value)
    ]
    return found + _memory(environment, state)


def claims_of(owner: Pass, state: ConfigurationState) -> dict[str, Any]:
    """The same as an entry of what is kept of a pass's findings; nothing where all is as claimed."""
    found = not_as_claimed(owner, state)
    return {"not_as_claimed": found} if found else {}


def _memory(environment: Mapping[str, Any], state: ConfigurationState) -> list[tuple[str, Any, Any]]:
    claimed = _fitted_gb(state)
    modules = environment.get("memory modules")
    listed = modules if isinstance(modules, list) else []
    sizes = [float(one["size_gb"]) for one in listed if isinstance(one, dict) and _is_number(one.get("size_gb"))]
    if claimed is None:
        return []
    if sizes and len(sizes) == len(listed):
        shown = sum(sizes)
        wrong = abs(shown - claimed) > _SAME_SIZE * claimed
    else:
        text = str(environment.get("memory", "")).removesuffix("GiB").strip()
        if not text.replace(".", "", 1).isdigit():
            return []
        shown = float(text)
        wrong = not _LEAST_SHOWN * claimed <= shown <= (1 + _SAME_SIZE) * claimed
    return [(MEMORY, f"{claimed:g} GB", f"{shown:g} GB")] if wrong else []


def _fitted_gb(state: ConfigurationState) -> float | None:
    """What the fitted modules hold together, where all of them say."""
    sizes = [fit.part.value("module_gb") for fit in state.slots.values()]
    known = [float(size) for size in sizes if isinstance(size, int | float)]
    return sum(known) if known and len(known) == len(sizes) else None


def _is_number(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)
