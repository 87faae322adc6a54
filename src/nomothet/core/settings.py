"""Settings of a configuration: groups, units, bounds, and what setting one takes (section 20)."""

import re
from dataclasses import dataclass
from typing import Literal

from nomothet.core.errors import BadQuantity
from nomothet.core.quantities import Spec, Value, read_value

# Where a setting is made: in the firmware, in the running system, or by the runner of a pass.
Where = Literal["firmware", "system", "run"]

GROUPS: dict[str, str] = {
    "firmware": "firmware",
    "clocks": "clocks",
    "voltages": "voltages",
    "power": "power limits",
    "timings": "memory speed and timings",
    "cooling": "fan or cooling mode",
    "system": "operating system build",
    "drivers": "drivers",
    "tweaks": "system tweaks",
    "route": "execution route",
    "background": "background set",
    "surroundings": "surroundings",
    "run": "set for each run",
}


@dataclass(frozen=True)
class Setting:
    """A setting that the catalogue knows.

    `touches` is the part that it acts on, `reset_by` the kinds of parts whose exchange puts it back to the firmware's
    default, and `rated` the part's attribute that says what it is rated for.
    """

    spec: Spec
    group: str
    where: Where
    touches: str
    reset_by: tuple[str, ...] = ()
    rated: tuple[str, str] | None = None


def _number(key: str, label: str, unit: str, low: float, high: float) -> Spec:
    return Spec(key, label, "number", unit, low, high)


_ALL = ("board", "processor", "memory_kit")
_CATALOGUE: tuple[Setting, ...] = (
    Setting(Spec("firmware", "firmware version"), "firmware", "firmware", "board"),
    Setting(_number("processor_clock_mhz", "processor clock", "MHz", 50, 10_000), "clocks", "firmware", "processor",
            ("board", "processor"), ("processor", "max_clock_mhz")),
    Setting(_number("graphics_clock_mhz", "graphics clock", "MHz", 50, 10_000), "clocks", "system", "graphics",
            ("graphics",), ("graphics", "clock_mhz")),
    Setting(_number("processor_voltage_v", "processor voltage", "V", 0.3, 2.5), "voltages", "firmware", "processor",
            ("board", "processor")),
    Setting(_number("memory_voltage_v", "memory voltage", "V", 0.5, 2.5), "voltages", "firmware", "memory",
            _ALL, ("memory_kit", "voltage_v")),
    Setting(_number("power_limit_w", "power limit", "W", 0.5, 2000), "power", "firmware", "processor",
            ("board", "processor"), ("processor", "power_w")),
    Setting(_number("graphics_limit_w", "graphics power limit", "W", 0.5, 2000), "power", "system", "graphics",
            ("graphics",), ("graphics", "power_w")),
    Setting(_number("memory_mts", "memory speed", "MT/s", 100, 20_000), "timings", "firmware", "memory",
            _ALL, ("memory_kit", "rated_mts")),
    Setting(Spec("memory_cas", "first memory timing", "whole", "cycles", 2, 120), "timings", "firmware", "memory",
            _ALL, ("memory_kit", "cas")),
    Setting(Spec("memory_timings", "memory timings"), "timings", "firmware", "memory", _ALL),
    Setting(_number("graphics_memory_gb", "graphics memory reserve", "GB", 0, 512), "firmware", "firmware", "graphics",
            ("board", "memory_kit")),
    Setting(Spec("fan_profile", "fan profile"), "cooling", "firmware", "cooling", ("board",)),
    Setting(Spec("cooling_mode", "cooling mode"), "cooling", "system", "cooling"),
    Setting(Spec("door", "cabinet door", "choice", choices=("open bench", "open", "closed")), "surroundings",
            "system", "cooling"),
    Setting(Spec("dust_filter", "dust filter", "choice", choices=("none", "in")), "surroundings", "system", "cooling"),
    Setting(_number("ambient_c", "room temperature", "°C", -20, 60), "surroundings", "system", "cooling"),
    Setting(Spec("image", "exhibit image"), "system", "system", "system"),
    Setting(Spec("os_build", "operating system build"), "system", "system", "system"),
    Setting(Spec("word_bits", "word size", "whole", "bit", 8, 128), "system", "system", "system"),
    Setting(Spec("graphics_driver", "graphics driver"), "drivers", "system", "graphics", ("graphics",)),
    Setting(Spec("board_driver", "board driver"), "drivers", "system", "board"),
    Setting(Spec("graphics_route", "graphics used", "choice", choices=("integrated", "discrete")), "route", "system",
            "graphics"),
    Setting(Spec("device", "device", "choice", choices=("processor", "graphics")), "route", "run", "system"),
    Setting(Spec("translation", "execution", "choice", choices=("native", "translated")), "route", "system", "system"),
    Setting(Spec("background", "background set"), "background", "system", "system"),
    Setting(Spec("threads", "threads"), "run", "run", "processor"),
    Setting(Spec("buffer_frames", "buffer", "whole", "frames", 1, 100_000), "run", "run", "processor"),
    Setting(Spec("start_heat", "start", "choice", choices=("cold", "hot")), "run", "run", "cooling"),
)  # fmt: skip
CATALOGUE: dict[str, Setting] = {setting.spec.key: setting for setting in _CATALOGUE}

_TWEAK = re.compile(r"tweak\.([^.]+)\.(.+)")
_KEY = re.compile(r"[a-z][a-z0-9_]*(\.[A-Za-z0-9][\w -]*)*")
_UNITS = {"w": "W", "gb": "GB", "mts": "MT/s", "fps": "fps", "s": "s", "mhz": "MHz", "c": "°C", "v": "V", "ms": "ms"}
TWEAK_STATES = ("off", "applied", "verified")


def setting_of(key: str) -> Setting:
    """The setting of a key: from the catalogue, a tweak (`tweak.DEVICE.NAME`), or a free one with its unit at the end.

    Examples
    --------
    >>> setting_of("power_limit_w").group
    'power'
    >>> setting_of("tweak.network card.sleep").spec.label
    'sleep on network card'
    """
    if key in CATALOGUE:
        return CATALOGUE[key]
    tweak = _TWEAK.fullmatch(key)
    if tweak:
        label = f"{tweak[2]} on {tweak[1]}"
        return Setting(Spec(key, label, "choice", choices=TWEAK_STATES), "tweaks", "system", "system")
    words = key.split("_")
    unit = _UNITS.get(words[-1], "") if len(words) > 1 else ""
    return Setting(Spec(key, " ".join(words[:-1] if unit else words), unit=unit), "system", "system", "system")


def acted_on(aspect: str) -> str:
    """The part that varying an aspect acts on.

    >>> acted_on("power_limit_w"), acted_on("part.memory_kit.capacity_gb"), acted_on("system")
    ('processor', 'memory', 'system')
    """
    head, _, tail = aspect.partition(".")
    if head == "part":
        place = tail.split(".")[0]
        return "memory" if place == "memory_kit" else place
    return head if head in ("memory", "system") else setting_of(aspect).touches


def goes_with_system(key: str) -> bool:
    """Whether a setting is part of what a machine is, so that it goes with the machine where that is the factor.

    What runs on it (image, drivers, firmware) and where it stands (room, door, background) does not.

    >>> goes_with_system("memory_mts"), goes_with_system("graphics_driver"), goes_with_system("ambient_c")
    (True, False, False)
    """
    return key != "firmware" and setting_of(key).group not in ("system", "drivers", "surroundings", "background")


def read_setting(key: str, given: object) -> Value:
    """Check one setting.

    Raises
    ------
    BadQuantity
        Names the setting and what would do.
    """
    if not _KEY.fullmatch(key):
        raise BadQuantity(key, f"{key!r} cannot name a setting: small letters, digits and underscores, a letter first.")
    return read_value(setting_of(key).spec, given)
