"""The workloads that ship with the bench, by the name that a job calls them."""

import sys
from collections.abc import Callable, Mapping
from typing import Any

from nomothet.bench.errors import BenchError

_SIZES = {"160x90", "240x135", "320x180", "480x270", "640x360"}


def _lantern_room(settings: Mapping[str, Any]) -> list[str]:
    return [
        "nomothet.bench.workloads.lantern_room",
        *_size(settings, "240x135"),
        "--detail", str(_whole(settings, "detail", 3, 1, 8)),
        "--seconds", str(_whole(settings, "seconds", 15, 1, 3600)),
    ]  # fmt: skip


def _parcel(settings: Mapping[str, Any]) -> list[str]:
    return [
        "nomothet.bench.workloads.parcel",
        "--seconds", str(_whole(settings, "seconds", 4, 1, 3600)),
    ]  # fmt: skip


def _lantern_still(settings: Mapping[str, Any]) -> list[str]:
    return [
        "nomothet.bench.workloads.lantern_still",
        *_size(settings, "480x270"),
        "--detail", str(_whole(settings, "detail", 4, 1, 8)),
        "--samples", str(_whole(settings, "samples", 12, 1, 1000)),
    ]  # fmt: skip


def _lantern_film(settings: Mapping[str, Any]) -> list[str]:
    return [
        "nomothet.bench.workloads.lantern_still",
        *_size(settings, "240x135"),
        "--detail", str(_whole(settings, "detail", 4, 1, 8)),
        "--frames", str(_whole(settings, "frames", 240, 1, 100_000)),
    ]  # fmt: skip


def _seconds(module: str, default: int) -> Callable[[Mapping[str, Any]], list[str]]:
    """A workload whose one setting is how long it runs."""
    return lambda settings: [
        f"nomothet.bench.workloads.{module}",
        "--seconds", str(_whole(settings, "seconds", default, 1, 86_400)),
    ]  # fmt: skip


def _storage(settings: Mapping[str, Any]) -> list[str]:
    megabytes = _whole(settings, "megabytes", 256, 1, 100_000)
    return ["nomothet.bench.workloads.storage", "--megabytes", str(megabytes)]


def _c_build(settings: Mapping[str, Any]) -> list[str]:
    return ["nomothet.bench.workloads.c_build", "--files", str(_whole(settings, "files", 40, 1, 10_000))]


def _stream_watch(settings: Mapping[str, Any]) -> list[str]:
    """One attempt; the load is put in by the search."""
    return [
        "nomothet.bench.workloads.stream_watch",
        "--load", str(_whole(settings, "load", 1, 1, 1_000_000)),
        "--seconds", str(_whole(settings, "seconds", 5, 1, 3600)),
        "--buffer", str(_whole(settings, "buffer_frames", 4, 1, 10_000)),
    ]  # fmt: skip


def _size(settings: Mapping[str, Any], default: str) -> list[str]:
    size = str(settings.get("size", default))
    if size not in _SIZES:
        raise BenchError(f"size is {size!r}; it must be one of {', '.join(sorted(_SIZES))}")
    return ["--size", size]


def _whole(settings: Mapping[str, Any], key: str, default: int, low: int, high: int) -> int:
    value = settings.get(key, default)
    if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
        raise BenchError(f"{key} is {value!r}; it must be a whole number from {low} to {high}")
    return value


_RUNNERS: dict[str, Callable[[Mapping[str, Any]], list[str]]] = {
    "lantern-room": _lantern_room,
    "lantern-still": _lantern_still,
    "lantern-film": _lantern_film,
    "parcel": _parcel,
    "thread-ladder": _seconds("thread_ladder", 2),
    "memory": _seconds("memory", 6),
    "lamp-soak": _seconds("lamp_soak", 60),
    "stream-watch": _stream_watch,
    "c-build": _c_build,
    "storage": _storage,
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
