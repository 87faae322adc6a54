"""Questions to the core as plain data, and its answers as plain data: what `nomothet analyse` reads and prints.

docs/analyse.md documents the shape of each kind.
"""

import dataclasses
import math
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from nomothet.core import comparable, enough, memory, overhead, passes
from nomothet.core.frames import Floats, checked_frame_times, frame_figures
from nomothet.core.limits import limits_of
from nomothet.core.load_search import next_attempt, search_result
from nomothet.core.per_second import Run, lane_of, run_by_seconds
from nomothet.core.shortage import collapse_of, headroom_pct
from nomothet.core.sustained import Limits, sustained
from nomothet.formats.errors import FormatError
from nomothet.formats.searches import attempts_of, plan_of

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
        When the question is not of the documented shape; the message names the field.
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
    answer: dict[str, Any] = plain(KINDS[kind](data))
    return answer


def plain(value: Any) -> Any:
    """Dataclasses, arrays and tuples as JSON knows them; what is not finite becomes null."""
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return {field.name: plain(getattr(value, field.name)) for field in dataclasses.fields(value)}
    if isinstance(value, Mapping):
        return {str(key): plain(one) for key, one in value.items()}
    if isinstance(value, list | tuple | np.ndarray):
        return [plain(one) for one in value]
    if isinstance(value, np.generic):
        return plain(value.item())
    return None if isinstance(value, float) and not math.isfinite(value) else value


def _passes(data: Data) -> dict[str, Any]:
    values, scale = _numbers(data, "values"), _scale(data)
    others = data.get("others")
    found = None if others is None else [_numbers({"others": one}, "others") for one in _list(data, "others")]
    return {
        "summary": passes.summary(values, scale),
        "flags": passes.flags(values, scale, _number(data, "borrowed_sd"), found),
    }


def _limits(data: Data) -> dict[str, Any]:
    run, frames = _run(data)
    declared = _declared(data)
    window = {"from_s": round(_number(data, "from_s") or 0), "to_s": _whole(data, "to_s")}
    burst = sustained(run, from_s=window["from_s"] or 0, to_s=window["to_s"], declared=declared)
    held = None
    if frames is not None:
        graphics = run.sensors.get("graphics use")
        use = None if graphics is None or not np.isfinite(graphics).any() else float(np.nanmedian(graphics))
        held = frame_figures(frames, declared_cap_fps=_declares(data, "cap_fps"), median_graphics_use=use).held_fps
    report = limits_of(
        run,
        held_fps=held,
        declared_cap_fps=_declares(data, "cap_fps"),
        burst_clock_mhz=burst.burst_clock_mhz if burst else None,
        declared=declared,
        from_s=window["from_s"] or 0,
        to_s=window["to_s"],
    )
    return dataclasses.asdict(report)


def _sustained(data: Data) -> dict[str, Any]:
    run, _ = _run(data)
    found = sustained(run, from_s=_number(data, "from_s") or 0.0, to_s=_number(data, "to_s"), declared=_declared(data))
    if found is None:
        raise FormatError("there is neither a frame rate nor a clock for at least ten seconds")
    return dataclasses.asdict(found)


def _overhead(data: Data) -> dict[str, Any]:
    tests = _object(data, "tests")
    pairs = {name: (_numbers(one, "off", name), _numbers(one, "on", name)) for name, one in tests.items()}
    return dataclasses.asdict(overhead.recorder_overhead(pairs))


def _memory(data: Data) -> dict[str, Any]:
    if "rate_mts" in data:
        rate = _needed(data, "rate_mts")
        answer = {"peak_gbs": memory.peak_bandwidth_gbs(rate, round(_number(data, "channels") or 1))}
        if "cas" in data:
            answer["first_word_ns"] = memory.first_word_latency_ns(_needed(data, "cas"), rate)
        if "reading" in data:
            return answer | {"observed": memory.transfer_rate(_needed(data, "reading"), rate)}
        return answer
    run, _ = _run(data)
    uses = {}
    for name in MEMORIES:
        values, capacity = run.sensors.get(name), run.capacities.get(name)
        if values is None or name in run.relative:
            continue
        use = enough.use_of(values, capacity=capacity)
        uses[name] = dataclasses.asdict(use) | {"headroom_pct": headroom_pct(use.peak, capacity) if capacity else None}
    return {"uses": uses, "collapse": collapse_of(run)}


def _comparable(data: Data) -> dict[str, Any]:
    found = comparable.comparability(
        _object(data, "a"), _object(data, "b"), factors=_list(data, "factors"), accepted=_object(data, "accepted", {})
    )
    return {"verdict": found.verdict, "differences": found.differences}


def _enough(data: Data) -> dict[str, Any]:
    tests = {
        name: enough.use_of(_numbers(one, "values", name), capacity=_number(one, "capacity"), idle=_number(one, "idle"))
        for name, one in _object(data, "tests").items()
    }
    reserve = _number(data, "reserve")
    found = enough.enough(tests, _numbers(data, "sizes"), enough.DEFAULT_RESERVE if reserve is None else reserve)
    return dataclasses.asdict(found)


def _search(data: Data) -> dict[str, Any]:
    plan = plan_of(_object(data, "plan"))
    try:
        attempts = attempts_of(_list(data, "attempts"))
    except TypeError as error:
        raise FormatError(f'"attempts": {error}; each needs "load" and "holds"') from None
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
}


def _run(data: Data) -> tuple[Run, Floats | None]:
    frames = None
    if "frame_times_ms" in data:
        frames = checked_frame_times(_numbers(data, "frame_times_ms"))
    lanes = []
    for at, sensor in enumerate(_list(data, "sensors")):
        place = f'"sensors", entry {at + 1}'
        if not isinstance(sensor, dict):
            raise FormatError(f"{place}: an object with name, unit, t_s and values is wanted")
        t, values = _floats(sensor, "t_s", place), _floats(sensor, "values", place)
        if len(t) != len(values):
            raise FormatError(f"{place}: {len(t)} times and {len(values)} values do not go together")
        name, unit = str(sensor.get("name", "")), str(sensor.get("unit", ""))
        lane = lane_of(name, unit, t, values, _number(sensor, "capacity"))
        lanes += [lane] if lane else []
    if frames is None and not lanes:
        raise FormatError('there is nothing to look at: give "frame_times_ms", or "sensors" whose names are known')
    return run_by_seconds(frames, _number(data, "starts_at_s") or 0.0, lanes, _number(data, "length_s") or 0.0), frames


def _declared(data: Data) -> Limits:
    return Limits(_declares(data, "temperature_c"), _declares(data, "power_w"))


def _declares(data: Data, key: str) -> float | None:
    return _number(_object(data, "declared", {}), key)


def _scale(data: Data) -> passes.Scale:
    scale = data.get("scale", "ratio")
    if scale not in ("ratio", "difference"):
        raise FormatError(f'"scale" is {scale!r}; it must be "ratio" or "difference"')
    return "ratio" if scale == "ratio" else "difference"


def _object(data: Data, key: str, otherwise: Data | None = None) -> Data:
    value = data.get(key, otherwise)
    if not isinstance(value, dict):
        raise FormatError(f'"{key}" must be an object')
    return value


def _list(data: Data, key: str) -> list[Any]:
    value = data.get(key, [])
    if not isinstance(value, list):
        raise FormatError(f'"{key}" must be a list')
    return value


def _numbers(data: object, key: str, place: str = "") -> list[float]:
    before = f"{place}, " if place else ""
    if not isinstance(data, dict) or not isinstance(data.get(key), list):
        raise FormatError(f'{before}"{key}" must be a list of numbers')
    return [_as_number(value, f'{before}"{key}", entry {at}') for at, value in enumerate(data[key], start=1)]


def _floats(data: Data, key: str, place: str) -> Floats:
    """A list of numbers in which null stands for a reading that failed."""
    value = data.get(key)
    if not isinstance(value, list):
        raise FormatError(f'{place}: "{key}" must be a list')
    return np.array([math.nan if one is None else _as_number(one, f'{place}, "{key}"') for one in value], float)


def _number(data: Data, key: str) -> float | None:
    return None if data.get(key) is None else _as_number(data[key], f'"{key}"')


def _needed(data: Data, key: str) -> float:
    value = _number(data, key)
    if value is None:
        raise FormatError(f'"{key}" is missing')
    return value


def _whole(data: Data, key: str) -> int | None:
    value = _number(data, key)
    return None if value is None else round(value)


def _as_number(value: object, place: str) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise FormatError(f"{place}: {value!r} is not a number")
    return float(value)
