"""What of a pass's findings the matrix needs: few words, read for every pass of a review at once."""

from collections.abc import Mapping
from typing import Any

_MEMORIES = ("memory used", "graphics memory used", "storage used")


def summary_of(content: Mapping[str, Any]) -> dict[str, Any]:
    """Shares of what limits, the first drop, the highest temperature with its time, headroom, a collapse, and power."""
    limits, trend, collapse = content["limits"], content["sustained"], content["collapse"]
    summary: dict[str, Any] = {}
    if limits:
        summary |= {name: limits[name] for name in ("shares", "also", "missing", "evidence")}
    if trend:
        names = ("burst", "sustained", "drop_pct", "first_drop_s", "cause", "evidence", "peak_c", "peak_at_s", "by")
        summary["trend"] = {name: trend[name] for name in names}
        summary["clocks"] = [trend["burst_clock_mhz"], trend["sustained_clock_mhz"]]
    if collapse:
        summary["collapse"] = collapse
    uses = {name: content["uses"][name] for name in _MEMORIES if name in content["uses"]}
    if uses:
        summary["uses"] = uses
    if content["power"]:
        summary["power"] = {name: [used["mean_w"], used["energy_j"]] for name, used in content["power"].items()}
    if content["too_short"]:
        summary["rise_c_per_min"] = content["rise_c_per_min"]
    return summary
