"""How a pass was run, flat, so that two can be laid side by side (section 16)."""

from collections.abc import Mapping
from typing import Any

from nomothet.core.comparable import AMBIENT
from nomothet.core.pass_analysis import PassAnalysis
from nomothet.server.passes.models import Origin, Pass
from nomothet.server.reviews.models import Test
from nomothet.server.systems.states import ConfigurationState

# What stands in an environment and says nothing about how the machine was.
_LEFT_OUT = {"settings", "observed", "read", "workload", "file", "column", "columns", "unit", "read_as", "simulated"}


def fingerprint_of(owner: Pass, source: str, analysis: PassAnalysis, state: ConfigurationState) -> dict[str, Any]:
    """The fingerprint of a pass: what was observed goes before what was read off, and that before what was set.

    A pass from a file knows little of its machine; what is unknown is no difference.

    Parameters
    ----------
    state : ConfigurationState
        What the pass's configuration claims of its parts.
    """
    environment = owner.environment if isinstance(owner.environment, dict) else {}
    found: dict[str, Any] = {f"part:{place}": fit.part.name for place, fit in sorted(state.fitted.items())}
    found |= {
        key: value
        for key, value in environment.items()
        if key not in _LEFT_OUT and isinstance(value, str | int | float | bool)
    }
    for held in ("settings", "read", "observed"):
        values = environment.get(held)
        found |= values if isinstance(values, dict) else {}
    found |= _as_run(environment)
    found["capture"] = _capture(owner, source)
    room = analysis.readings.get("room temperature")
    if room is not None:
        found[AMBIENT] = round(room.median, 1)
    return found


def declared_blocks(test: Test) -> dict[str, Any]:
    """What the passes of a test have in common by its definition: workload version and settings."""
    settings = {f"setting:{key}": value for key, value in test.settings.items()}
    return {"workload": test.workload.key, "version": test.workload.version, **settings}


def _as_run(environment: Mapping[str, Any]) -> dict[str, Any]:
    """Workload version and settings as the bench ran them, where it said so."""
    told = environment.get("workload")
    if not isinstance(told, dict):
        return {}
    found = {key: told[key] for key in ("workload", "version", "program") if told.get(key)}
    settings = told.get("settings")
    return found | {f"setting:{key}": value for key, value in (settings if isinstance(settings, dict) else {}).items()}


def _capture(owner: Pass, source: str) -> str:
    if owner.origin == Origin.FILE:
        return "a file"
    if owner.origin == Origin.TYPED:
        return "typed in"
    return source.split(",")[0] or "the bench"
