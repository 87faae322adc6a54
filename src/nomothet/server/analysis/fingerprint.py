"""How a pass was run, flat, so that two can be laid side by side (section 16)."""

from typing import Any

from nomothet.core.comparable import AMBIENT
from nomothet.core.pass_analysis import PassAnalysis
from nomothet.server.passes.models import Origin, Pass

# What stands in an environment and says nothing about how the machine was.
_LEFT_OUT = {"settings", "observed", "file", "column", "columns", "unit", "read_as", "simulated"}


def fingerprint_of(owner: Pass, source: str, analysis: PassAnalysis) -> dict[str, Any]:
    """The fingerprint of a pass: what was observed comes before what was set.

    A pass from a file knows little of its machine; what is unknown is no difference.
    """
    environment = owner.environment if isinstance(owner.environment, dict) else {}
    found: dict[str, Any] = {
        key: value
        for key, value in environment.items()
        if key not in _LEFT_OUT and isinstance(value, str | int | float | bool)
    }
    for held in ("settings", "observed"):
        values = environment.get(held)
        found |= values if isinstance(values, dict) else {}
    found["capture"] = _capture(owner, source)
    room = analysis.readings.get("room temperature")
    if room is not None:
        found[AMBIENT] = round(room.median, 1)
    return found


def _capture(owner: Pass, source: str) -> str:
    if owner.origin == Origin.FILE:
        return "a file"
    return source.split(",")[0] or "the bench"
