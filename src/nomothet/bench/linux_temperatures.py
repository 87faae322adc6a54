"""Temperatures as Linux tells them: where they are is looked for once, and their files are kept open."""

import math
import os
from collections.abc import Mapping
from pathlib import Path

from nomothet.bench.held_files import content


class Temperatures:
    """Every temperature of the system, by chip and place.

    Parameters
    ----------
    devices : Path
        Where /sys is. Chips are told under class/hwmon; where there are none, zones under class/thermal.
    """

    source = "/sys/class/hwmon, /sys/class/thermal"

    def __init__(self, devices: Path = Path("/sys")) -> None:
        self._paths: dict[str, Path] = {}
        for told in (_chips(devices), _zones(devices)):
            for place, path in told:
                if not math.isnan(_celsius(path)):
                    self._paths[_own(place, self._paths)] = path
            if self._paths:
                break

    @property
    def places(self) -> list[str]:
        return list(self._paths)

    def read(self) -> list[float]:
        """One for each place, in °C; NaN where a reading failed."""
        return [_celsius(path) for path in self._paths.values()]


def _chips(devices: Path) -> list[tuple[str, Path]]:
    # Some drivers tell them a folder further down.
    found = sorted(
        {*devices.glob("class/hwmon/hwmon*/temp*_input"), *devices.glob("class/hwmon/hwmon*/device/temp*_input")}
    )
    return [(_chip_place(path), path) for path in found]


def _chip_place(path: Path) -> str:
    chip = _words(path.with_name("name")) or _words(path.parent.parent / "name")
    label = _words(path.with_name(path.name.replace("_input", "_label")))
    return f"{chip} {label}".strip() or path.parent.name


def _zones(devices: Path) -> list[tuple[str, Path]]:
    found = sorted(devices.glob("class/thermal/thermal_zone*/temp"))
    return [(_words(path.with_name("type")) or path.parent.name, path) for path in found]


def _own(place: str, taken: Mapping[str, Path]) -> str:
    """A name of its own for each of several alike, such as two drives."""
    number, name = 1, place
    while name in taken:
        number += 1
        name = f"{place} {number}"
    return name


def _words(path: Path) -> str:
    try:
        return path.read_text().strip()
    except (OSError, UnicodeDecodeError):
        return ""


def _celsius(path: Path) -> float:
    try:
        return int(content(os.fspath(path))) / 1000
    except (OSError, ValueError):
        return math.nan
