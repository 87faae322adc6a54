"""What is said of a soak: whether the machine was stable."""

from collections.abc import Callable, Mapping


def _lasted(seconds: float) -> str:
    return f"{seconds / 60:.1f} min" if seconds >= 60 else f"{seconds:.0f} s"


def _ended(outcome: str, lasted_s: float) -> str:
    return f"not stable: {outcome} after {_lasted(lasted_s)}"


def _wrong(errors: float, lasted_s: float) -> str:
    return f"not stable: {errors:.0f} wrong result{'' if errors == 1 else 's'} in {_lasted(lasted_s)}"


def _short(lasted_s: float, asked_s: float) -> str:
    return f"not known: it lasted {_lasted(lasted_s)} of the {asked_s / 60:.0f} min asked for"


def _stable(lasted_s: float, counted: bool) -> str:
    errors = "no wrong result" if counted else "errors were not counted"
    return f"stable for {_lasted(lasted_s)}: {errors}, no crash, no fault seen"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "soak_ended": _ended,
    "soak_wrong": _wrong,
    "soak_short": _short,
    "soak_stable": _stable,
}
