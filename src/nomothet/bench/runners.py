"""The workloads that ship with the bench. A bench runs nothing that is not listed here."""

import sys
from collections.abc import Callable, Mapping
from typing import Any

from nomothet.bench.errors import BenchError

_SIZES = {"160x90", "240x135", "320x180", "480x270", "640x360"}


def _lantern_room(settings: Mapping[str, Any]) -> list[str]:
    size = str(settings.get("size", "240x135"))
    if size not in _SIZES:
        raise BenchError(f"size is {size!r}; it must be one of {', '.join(sorted(_SIZES))}")
    return [
        "nomothet.bench.workloads.lantern_room",
        "--size", size,
        "--detail", str(_whole(settings, "detail", 3, 1, 8)),
        "--seconds", str(_whole(settings, "seconds", 15, 1, 3600)),
    ]  # fmt: skip


def _parcel(settings: Mapping[str, Any]) -> list[str]:
    return [
        "nomothet.bench.workloads.parcel",
        "--seconds", str(_whole(settings, "seconds", 4, 1, 3600)),
    ]  # fmt: skip


def _whole(settings: Mapping[str, Any], key: str, default: int, low: int, high: int) -> int:
    value = settings.get(key, default)
    if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
        raise BenchError(f"{key} is {value!r}; it must be a whole number from {low} to {high}")
    return value


_RUNNERS: dict[str, Callable[[Mapping[str, Any]], list[str]]] = {
    "lantern-room": _lantern_room,
    "parcel": _parcel,
}


def command_for(runner: str, settings: Mapping[str, Any]) -> list[str]:
    """The command line of a shipped workload; settings are checked and never pass through a shell.

    Raises
    ------
    BenchError
        When the runner is unknown or a setting is outside its values.
    """
    if runner not in _RUNNERS:
        raise BenchError(f"this bench has no runner {runner!r}; it has {', '.join(_RUNNERS)}")
    return [sys.executable, "-m", *_RUNNERS[runner](settings)]
