"""Questions to the core as plain data, and its answers as plain data: what `nomothet analyse` reads and prints.

docs/analyse.md documents the shape of each kind.
"""

import dataclasses
import math
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from msgspec import UNSET, structs

from nomothet.core import comparable, enough, memory, overhead, passes
from nomothet.core.errors import BadSample
from nomothet.core.frames import Floats, checked_frame_times, frame_figures
from nomothet.core.limits import limits_of
from nomothet.core.load_search import Attempt, next_attempt, search_result
from nomothet.core.per_second import Run, lane_of, run_by_seconds
from nomothet.core.sensors import misfit_of
from nomothet.core.shortage import collapse_of, headroom_pct
from nomothet.core.sustained import Limits, sustained
from nomothet.formats import questions
from nomothet.formats.errors import FormatError
from nomothet.formats.finding_analyses import FINDING_KINDS
from nomothet.formats.json_files import checked, named
from nomothet.formats.plain import told
from nomothet.formats.searches import plan_of

Data = Mapping[str, Any]

MEMORIES = ("memory used", "graphics memory used", "swap used")


def analyse(kind: str, data: object) -> dict[str, Any]:
    """The answer of the core to a question.

    Parameters
    ----------
    kind : str
        One of KINDS.
    data : object
        What a JSON file held.

    Raises
    ------
    FormatError
        When the question is not of the documented shape; the message names the place.
    MethodError
        When the core cannot compute on it.

    Examples
    --------
    >>> analyse("overhead", {"tests": {"walk": {"off": [940], "on": [868]}}})["tests"]["walk"]["pairs"]
    1
    """
    if kind not in KINDS:
        raise FormatError(f"{kind!r} is no kind of analysis; choose one of {', '.join(KINDS)}")
    if not isinstance(data, dict):
        raise FormatError("the file must hold an object")
    answer: dict[str, Any] = told(KINDS[kind](data))
    return answer


def _passes(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Passes)
    for at, other in enumerate(asked.others or [], start=1):
        _on_scale(other, asked.scale, f'"others", entry {at}')
    _on_scale(asked.values, asked.scale, '"values"')
    return {
        "summary": passes.summary(asked.values, asked.scale),
        "flags": passes.flags(asked.values, asked.scale, asked.borrowed_sd, asked.others),
    }


def _on_scale(values: list[float], scale: passes.Scale, place: str) -> None:
    try:
        passes.on_scale(values, scale)
    except BadSample as error:
        raise FormatError(f"{place}: {error}") from None


def _limits(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Recording)
    run, frames, other_unit = _run(asked)
    first = int(asked.from_s)
    last = None if asked.to_s is None else math.ceil(asked.to_s - 1e-9)
    burst = sustained(run, from_s=first, to_s=last, declared=_declared(asked))
    held = None
    cap = asked.declared.cap_fps
    if frames is not None:
        graphics = run.sensors.get("graphics use")
        use = None if graphics is None or not np.isfinite(graphics).any() else float(np.nanmedian(graphics))
        held = frame_figures(frames, declared_cap_fps=cap, median_graphics_use=use).held_fps
    report = limits_of(
        run,
        held_fps=held,
        declared_cap_fps=cap,
        burst_clock_mhz=burst.burst_clock_mhz if burst else None,
        declared=_declared(asked),
        from_s=first,
        to_s=last,
    )
    return {**_fields(report), "other_unit": other_unit}


def _sustained(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Recording)
    run, _, other_unit = _run(asked)
    found = sustained(run, from_s=asked.from_s, to_s=asked.to_s, declared=_declared(asked))
    if found is None:
        raise FormatError("there is neither a frame rate nor a clock for at least ten seconds")
    return {**_fields(found), "other_unit": other_unit}


def _overhead(data: Data) -> dict[str, Any]:
    tests = named(checked(data, questions.Overhead).tests, questions.Pairs, "tests")
    for name, one in tests.items():
        if len(one.off) != len(one.on) or not one.off:
            raise FormatError(
                f'"tests", {name!r}: {len(one.off)} passes without the recorder and {len(one.on)} with it make no pairs'
            )
    found = overhead.recorder_overhead(
        {name: (one.off, one.on) for name, one in tests.items()}, {name: one.direction for name, one in tests.items()}
    )
    return {**_fields(found), "refused": found.refused or ""}


def _memory(data: Data) -> dict[str, Any]:
    if {"rate_mts", "channels", "cas", "reading"} & set(data):
        return _arithmetic(checked(data, questions.MemoryArithmetic))
    run, _, other_unit = _run(checked(data, questions.Recording))
    uses = {}
    for name in MEMORIES:
        values, capacity = run.sensors.get(name), run.capacities.get(name)
        if values is None or name in run.relative:
            continue
        use = enough.use_of(values, capacity=capacity)
        uses[name] = {**_fields(use), "headroom_pct": headroom_pct(use.peak, capacity) if capacity else None}
    return {"uses": uses, "collapse": collapse_of(run), "other_unit": other_unit}


def _arithmetic(asked: questions.MemoryArithmetic) -> dict[str, Any]:
    channels = _whole(asked.channels, '"channels"')
    answer: dict[str, Any] = {"peak_gbs": memory.peak_bandwidth_gbs(asked.rate_mts, channels)}
    if asked.cas is not UNSET:
        answer["first_word_ns"] = memory.first_word_latency_ns(asked.cas, asked.rate_mts)
    if asked.reading is not UNSET:
        answer["observed"] = memory.transfer_rate(asked.reading, asked.rate_mts)
    return answer


def _comparable(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Comparable)
    for name, fingerprint in (("a", asked.a), ("b", asked.b)):
        known = named(fingerprint, object, name)
        for key, value in known.items():
            place = f'"{name}", {key!r}'
            checked(value, questions.Scalar | list[questions.Scalar], place)  # type: ignore[arg-type]
            if key == comparable.AMBIENT:
                checked(value, float | None, place)  # type: ignore[arg-type]
    found = comparable.comparability(asked.a, asked.b, factors=asked.factors, accepted=asked.accepted)
    return {"verdict": found.verdict, "differences": found.differences}


def _enough(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.EnoughMemory)
    uses = {}
    for name, one in named(asked.tests, questions.UseOfTest, "tests").items():
        values = [math.nan if value is None else value for value in one.values]
        try:
            uses[name] = enough.use_of(values, capacity=one.capacity, idle=one.idle)
        except BadSample as error:
            raise FormatError(f'"tests", {name!r}: {error}') from None
    return _fields(enough.enough(uses, asked.sizes, asked.reserve))


def _search(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Search)
    plan = plan_of({key: value for key, value in structs.asdict(asked.plan).items() if value is not None})
    attempts = []
    for at, one in enumerate(asked.attempts, start=1):
        load = _whole(one.load, f'"attempts", entry {at}, "load"')
        if load < (0 if plan.rungs else 1) or (plan.rungs and load >= plan.rungs):
            raise FormatError(f'"attempts", entry {at}, "load": {load} is no {"rung" if plan.rungs else "load"}')
        attempts.append(Attempt(load, one.holds, one.hot, one.time_to_failure_s, one.reason))
    return {"result": search_result(plan, attempts), "next": next_attempt(plan, attempts)}


KINDS: Mapping[str, Callable[[Data], dict[str, Any]]] = {
    "passes": _passes,
    "limits": _limits,
    "sustained": _sustained,
    "overhead": _overhead,
    "memory": _memory,
    "comparable": _comparable,
    "enough": _enough,
    "search": _search,
    **FINDING_KINDS,
}


def _run(asked: questions.Recording) -> tuple[Run, Floats | None, list[str]]:
    """The recording by seconds, its frames, and the sensors whose unit is of another family than their name."""
    frames = None if asked.frame_times_ms is UNSET else checked_frame_times(asked.frame_times_ms)
    lanes = []
    other_unit = []
    for at, sensor in enumerate(asked.sensors, start=1):
        place = f'"sensors", entry {at}'
        t = np.array(sensor.t_s, float)
        values = np.array([math.nan if one is None else one for one in sensor.values], float)
        if len(t) != len(values):
            raise FormatError(f"{place}: {len(t)} times and {len(values)} values do not go together")
        if len(t) > 1 and np.diff(t).min() < 0:
            raise FormatError(f'{place}, "t_s", entry {int(np.argmax(np.diff(t) < 0)) + 2}: the time goes back')
        lane = lane_of(sensor.name, sensor.unit, t, values, sensor.capacity)
        lanes += [lane] if lane else []
        meant = misfit_of(sensor.name, sensor.unit)
        if meant:
            other_unit.append(f"{sensor.name}: {meant} is not read in {sensor.unit or 'a plain number'}")
    if frames is None and not lanes:
        told = f" ({'; '.join(other_unit)})" if other_unit else ""
        raise FormatError(f'there is nothing to look at: give "frame_times_ms", or "sensors" that are known{told}')
    if asked.to_s is not None and asked.to_s <= asked.from_s:
        raise FormatError(f'"to_s" is {asked.to_s:g}; it must come after "from_s"')
    return run_by_seconds(frames, asked.starts_at_s, lanes, asked.length_s), frames, other_unit


def _declared(asked: questions.Recording) -> Limits:
    return Limits(asked.declared.temperature_c, asked.declared.power_w)


def _fields(found: Any) -> dict[str, Any]:
    return {field.name: getattr(found, field.name) for field in dataclasses.fields(found)}


def _whole(value: float, place: str) -> int:
    if value != int(value):
        raise FormatError(f"{place}: {value:g} is not a whole number")
    return int(value)
