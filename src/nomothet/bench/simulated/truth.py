"""The truth of a simulated run, which no sensor shows: what the analysis is checked against."""

import math
from collections.abc import Sequence

import numpy as np

from nomothet.bench.simulated.model import Recording
from nomothet.bench.simulated.work import STEP_S, Use

_STEPS_A_SECOND = round(1 / STEP_S)
# Parts that are this near to one another limit together; either is right.
_TOGETHER = 0.05
# Less than this is short of memory in name only, and a clock this little lowered is hardly held back.
_HARDLY_SHORT = 0.03
_HARDLY_HELD, _SURELY_HELD = 0.05, 0.09


def right_kinds(recording: Recording, limit_w: float = math.inf) -> list[set[str]]:
    """For each second of a run, the answers to "what limits it" that are right.

    Parameters
    ----------
    limit_w : float
        The power limit that the settings declare; sitting at it is an answer from the first second.
    """
    seconds = math.ceil(recording.length_s - 1e-9)
    burst = max(recording.clock_mhz[: 5 * _STEPS_A_SECOND])
    kinds: list[set[str]] = [set() for _ in range(seconds)]
    for at, use in enumerate(recording.uses):
        held = _held(recording, at, burst, limit_w)
        short = _short(use)
        second = kinds[min(seconds - 1, at // _STEPS_A_SECOND)]
        second |= short or held or _sides(use)
        if "" in second:
            second |= _sides(use) | held
    return [kind - {""} for kind in kinds]


def first_throttled_s(recording: Recording, by: str) -> float | None:
    """When heat or power first held the clock for good: it stays under its burst level from then on for a second."""
    held = np.array([one == by for one in recording.held_by])
    for at in np.flatnonzero(held):
        if held[at : at + _STEPS_A_SECOND].mean() > 0.5:
            return float(recording.t_s[at])
    return None


def deepest_throttle(recording: Recording) -> float:
    """How much of the clock was lost at most, as a share, over any second."""
    clock = np.array(recording.clock_mhz)
    means = np.convolve(clock, np.ones(_STEPS_A_SECOND) / _STEPS_A_SECOND, mode="valid")
    return float(1 - means.min() / clock.max())


def first_short_s(recording: Recording, graphics: bool) -> float | None:
    """When memory first ran short; None where it never did."""
    short: Sequence[float] = [use.graphics_shortage if graphics else use.main_shortage for use in recording.uses]
    return next((recording.t_s[at] for at, share in enumerate(short) if share > 0), None)


def _short(use: Use) -> set[str]:
    """Shortages; an empty word stands for "hardly", where other answers are right as well."""
    for share, kind in ((use.graphics_shortage, "graphics memory"), (use.main_shortage, "memory capacity")):
        if share > _HARDLY_SHORT:
            return {kind}
        if share > 0:
            return {kind, ""}
    return set()


def _held(recording: Recording, at: int, burst: float, limit_w: float) -> set[str]:
    by = recording.held_by[at]
    lost = 1 - recording.clock_mhz[at] / burst
    if by == "power" and recording.power_w[at] >= 0.985 * limit_w:
        # At its limit from the first second, whatever the clock.
        return {"power"}
    near_limit = recording.power_w[at] >= 0.955 * limit_w
    kind = {"heat": {"heat"}, "power": {"power"}}.get(by, set()) if lost >= _HARDLY_HELD else set()
    if near_limit:
        kind = kind | {"power", ""}
    return kind if lost >= _SURELY_HELD else kind | ({""} if kind else set())


def _sides(use: Use) -> set[str]:
    """Which of the sides takes longest; those nearly as long are right as well."""
    threads = "all threads" if use.processor >= 0.8 * use.busiest else "one thread"
    both = {"all threads", "one thread"} if 0.75 < use.processor < 0.85 else {threads}
    sides: list[tuple[float, set[str]]] = [
        (use.cap_ms, {"rate cap"}),
        (use.graphics_ms, {"graphics"}),
        (use.processor_ms, both),
    ]
    longest = max(ms for ms, _ in sides)
    near = [kinds for ms, kinds in sides if ms >= (1 - _TOGETHER) * longest]
    return set().union(*near)
