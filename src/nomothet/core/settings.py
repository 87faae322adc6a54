"""Settings of a configuration: groups, units, bounds, and what setting one takes (section 20)."""

import re
from dataclasses import dataclass
from typing import Literal

from nomothet.core.errors import BadQuantity
from nomothet.core.parts import kind_of_place
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
    "own": "settings of our own",
}


@dataclass(frozen=True)
class Setting:
    """A setting that the catalogue knows.

    `touches` is the part that it acts on, `reset_by` the kinds of parts whose exchange puts it back to the firmware's
    default, `rated` the part's attribute that says what it is rated for, and `restart` says that it holds after a
    restart only.
    """

    spec: Spec
    group: str
    where: Where
    touches: str
    reset_by: tuple[str, ...] = ()
    rated: tuple[str, str] | None = None
    restart: bool = False


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

# A setting that a team has defined says in its key what it acts on and where it is set.
TOUCHED = ("processor", "graphics", "memory", "storage", "board", "cooling", "display", "system")
MADE_IN: dict[str, Where] = {"firmware": "firmware", "system": "system", "restart": "system", "run": "run"}
_OWN = re.compile(rf"own\.({'|'.join(TOUCHED)})\.({'|'.join(MADE_IN)})\.([^._]+)(?:_([a-z]+))?")
_TWEAK = re.compile(r"tweak\.([^.]+)\.(.+)")
_KEY = re.compile(r"[a-z][a-z0-9_]*(\.[A-Za-z0-9][\w -]*)*")
# The units that a setting's key can end with.
UNITS = {
    "w": "W", "gb": "GB", "mb": "MB", "mts": "MT/s", "fps": "fps", "s": "s", "mhz": "MHz", "c": "°C", "v": "V",
    "ms": "ms", "pct": "%", "rpm": "rpm", "cycles": "cycles", "hz": "Hz",
}  # fmt: skip
TWEAK_STATES = ("off", "applied", "verified")


def own_key(name: str, touches: str, made_in: str, unit: str = "") -> str:
    """The key of a setting that a team defines.

    >>> own_key("Game mode", "graphics", "restart")
    'own.graphics.restart.Game mode'
    >>> own_key("refresh", "memory", "firmware", "cycles")
    'own.memory.firmware.refresh_cycles'
    """
    ends = {words: end for end, words in UNITS.items()}
    return f"own.{touches}.{made_in}.{name}" + (f"_{ends[unit]}" if unit else "")


def setting_of(key: str) -> Setting:
    """The setting of a key: of the catalogue, of a team, a tweak (`tweak.DEVICE.NAME`), or a free one with its unit.

    Examples
    --------
    >>> setting_of("power_limit_w").group
    'power'
    >>> setting_of("tweak.network card.sleep").spec.label
    'sleep on network card'
    """
    if key in CATALOGUE:
        return CATALOGUE[key]
    own = _OWN.fullmatch(key)
    if own:
        touches, made_in, name, end = own.groups()
        spec = Spec(key, name, unit=UNITS.get(end or "", ""))
        return Setting(spec, "own", MADE_IN[made_in], touches, restart=made_in == "restart")
    tweak = _TWEAK.fullmatch(key)
    if tweak:
        label = f"{tweak[2]} on {tweak[1]}"
        return Setting(Spec(key, label, "choice", choices=TWEAK_STATES), "tweaks", "system", "system")
    words = key.split("_")
    unit = UNITS.get(words[-1], "") if len(words) > 1 else ""
    return Setting(Spec(key, " ".join(words[:-1] if unit else words), unit=unit), "system", "system", "system")


def is_known(key: str) -> bool:
    """Whether a key is of the catalogue or of a team's own settings."""
    return key in CATALOGUE or _OWN.fullmatch(key) is not None


def acted_on(aspect: str) -> str:
    """The part that varying an aspect acts on.

    >>> acted_on("power_limit_w"), acted_on("part.memory_kit.capacity_gb"), acted_on("system")
    ('processor', 'memory', 'system')
    """
    head, _, tail = aspect.partition(".")
    if head == "part":
        place = tail.split(".")[0]
        return "memory" if place == "memory_kit" else kind_of_place(place)
    return head if head in ("memory", "system") else setting_of(aspect).touches


def goes_with_system(key: str) -> bool:
    """Whether a setting is part of what a machine is, so that it goes with the machine where that is the factor.

    What runs on it (image, drivers, firmware) and where it stands (room, door, background) does not.

    >>> goes_with_system("memory_mts"), goes_with_system("graphics_driver"), goes_with_system("ambient_c")
    (True, False, False)
    """
    setting = setting_of(key)
    if setting.group == "own":
        return setting.touches != "system"
    return key != "firmware" and setting.group not in ("system", "drivers", "surroundings", "background")


def read_setting(key: str, given: object, spec: Spec | None = None) -> Value:
    """Check one setting; `spec` is what a team has said of one of its own.

    Raises
    ------
    BadQuantity
        Names the setting and what would do.
    """
    if not _KEY.fullmatch(key):
        raise BadQuantity(key, f"{key!r} cannot name a setting: small letters, digits and underscores, a letter first.")
    return read_value(spec or setting_of(key).spec, given)
