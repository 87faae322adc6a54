"""What is said of a workload as a test, from its passes on record."""

from collections.abc import Callable, Mapping


def _short(lasts_s: float) -> str:
    return f"Too short: its passes last about {lasts_s:.3g} s, and end before a machine is warm."


def _mostly_warm_up(warm_up_s: float, lasts_s: float) -> str:
    return f"Too short: {warm_up_s:.3g} s of about {lasts_s:.3g} s are warm-up."


def _few_frames(frames: float, needed: int) -> str:
    return f"Too short for a 1 % low: a pass has about {frames:.0f} frames, and {needed:,} are needed."


def _light(fps: float) -> str:
    return f"Too light: {fps:.0f} frames per second say that the machine is hardly asked."


SENTENCES: Mapping[str, Callable[..., str]] = {
    "workload_not_run": lambda: "No pass is on record yet, so nothing can be said.",
    "workload_length_unknown": lambda: "How long its passes last is not on record.",
    "workload_short": _short,
    "workload_mostly_warm_up": _mostly_warm_up,
    "workload_few_frames": _few_frames,
    "workload_light": _light,
    "workload_fit": lambda: "Nothing on record speaks against it.",
}
