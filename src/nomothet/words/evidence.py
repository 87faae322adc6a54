"""What is said of what held a run back (methods 11 and 12)."""

from collections.abc import Callable, Mapping, Sequence

_UNITS = {
    "graphics use": "%",
    "busiest core": "%",
    "processor use": "%",
    "waiting for storage": "%",
    "clock": "MHz",
    "temperature": "°C",
    "power": "W",
    "graphics memory used": "GB",
    "memory used": "GB",
    "major page faults": "a second",
}
_ONE_DIGIT = ("power", "graphics memory used", "memory used")


def _limit_seen(kind: str, means: Mapping[str, float], capacities: Mapping[str, float], held_fps: float | None) -> str:
    parts = [_reading(name, value, capacities.get(name)) for name, value in means.items()]
    if kind == "rate cap":
        parts.insert(0, f"held at {held_fps:g} fps" if held_fps else "held at the declared cap")
    return ", ".join(parts)


def _reading(name: str, value: float, capacity: float | None) -> str:
    digits = 1 if name in _ONE_DIGIT else 0
    unit = f"of {capacity:g} GB" if capacity and name.endswith("memory used") else _UNITS.get(name, "")
    return f"{name} {value:.{digits}f} {unit}".strip()


def _clock_fell(burst_mhz: float, mhz: float, why: str, value: float | None, missing: Sequence[str]) -> str:
    fell = f"the clock fell from {burst_mhz:.0f} to {mhz:.0f} MHz"
    if why == "paused":
        return f"{fell} while the machine paused"
    if value is not None:
        at = {
            "hot": f"{value:.0f} °C",
            "steady": f"a steady {value:.1f} W",
            "at its limit": f"its limit, {value:.1f} W",
        }
        return f"{fell} at {at[why]}"
    return f"{fell}; no {' or '.join(missing)} was recorded" if missing else fell


def _rate_fell(clock: str) -> str:
    return {
        "fell": "the rate fell apart from the clock",
        "stayed": "the clock did not fall",
        "not recorded": "no clock was recorded",
    }[clock]


def _memory_filled(quantity: str, share: float) -> str:
    return f"{quantity} reached {100 * share:.0f} % of its capacity"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "limit_seen": _limit_seen,
    "clock_fell": _clock_fell,
    "rate_fell": _rate_fell,
    "memory_filled": _memory_filled,
}
