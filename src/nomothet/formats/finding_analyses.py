"""The core's answers about several cells or tests at once, as plain data (docs/analyse.md)."""

import dataclasses
import math
from collections.abc import Callable, Hashable, Iterable, Mapping
from typing import Any, TypeVar

import numpy as np
from msgspec import UNSET

from nomothet.core import chain, crossover, economy, forecast, grid, overall, scaling, sweep
from nomothet.core.pairwise import Pairwise
from nomothet.core.target import target_rate
from nomothet.formats import finding_questions as questions
from nomothet.formats.errors import FormatError
from nomothet.formats.json_files import checked, named

Data = Mapping[str, Any]
Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")

_WH = 3600.0


def _overall(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Overall)
    tests = {}
    for name, one in named(asked.tests, questions.OverallTest, "tests").items():
        cells = {
            other: checked(values, questions.Values, f'"tests", {name!r}, "cells", {other!r}')
            for other, values in one.cells.items()
        }
        tests[name] = overall.TestCells(cells, one.direction, one.weight, one.left_out)
    found = overall.overall(tests, asked.baseline, asked.margin)
    return {
        "configurations": {
            name: one
            and {"tests": one.tests, "best": one.best, "worst": one.worst, **_compared(one.compared), "df": one.df}
            for name, one in found.configurations.items()
        },
        "left_out": found.left_out,
    }


def _sweep(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Sweep)
    levels = [sweep.Level(one.level, one.values, one.price) for one in asked.levels]
    found = sweep.sweep(levels, asked.direction, asked.margin)
    return {
        "levels": [
            {"level": one.level, "centre": one.centre, "low": one.low, "high": one.high, "gain": _gain(one.gain)}
            for one in found.levels
        ],
        "best": found.best,
        "enough": found.enough,
        "tapering_at": found.tapering_at,
        "knee": found.knee,
    }


def _gain(gain: sweep.Gain | None) -> dict[str, Any] | None:
    return None if gain is None else {**_fields(gain), "comparison": _compared(gain.comparison)}


def _chain(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Chain)
    found = chain.chain([(one.name, one.values) for one in asked.steps], asked.direction, asked.margin)
    return {
        "steps": [
            {"name": one.name, "step": _compared(one.step), "running": _compared(one.running)} for one in found.steps
        ],
        "end_to_end": _compared(found.end_to_end),
    }


def _grid(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Grid)
    wrong = next((at for at, one in enumerate(asked.cells, 1) if len(one.levels) != len(asked.factors)), None)
    if wrong is not None:
        raise FormatError(f'"cells", entry {wrong}, "levels": there are {len(asked.factors)} factors')
    cells = _once(((tuple(one.levels), one.values) for one in asked.cells), "cells")
    found = grid.grid(asked.factors, cells, asked.direction, asked.margin)
    effects = {" × ".join(of): _compared(one) for of, one in found.effects.items()}
    return {"effects": effects, "df": found.df}


def _scaling(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Scaling)
    points = _once(((one.n, one.values) for one in asked.points), "points")
    found = scaling.scaling(points, asked.direction)
    law = found.universal
    return {
        "speedup": found.speedup,
        "efficiency": found.efficiency,
        "amdahl": found.amdahl,
        "usl": law and {"sigma": law.sigma, "kappa": law.kappa, "rss": law.rss, "peak": law.peak},
    }


def _crossover(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Crossover)
    sizes = _once(((one.size, (one.a, one.b)) for one in asked.sizes), "sizes")
    found = crossover.crossover(sizes, asked.direction)
    return {"log_ratio": found.log_ratio, "crossings": [_fields(one) for one in found.crossings]}


def _economy(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Economy)
    t = np.array(asked.power.t_s, float)
    values = np.array([math.nan if one is None else one for one in asked.power.values], float)
    if len(t) != len(values):
        raise FormatError(f'"power": {len(t)} times and {len(values)} values do not go together')
    if len(t) > 1 and np.diff(t).min() <= 0:
        raise FormatError(f'"power", "t_s", entry {int(np.argmax(np.diff(t) <= 0)) + 2}: the time does not go on')
    there = np.isfinite(values)
    to_s = float(t[-1]) if asked.to_s is None and len(t) else asked.to_s or 0.0
    found = economy.energy(t[there], values[there], asked.from_s, to_s)
    if isinstance(found, float):
        return {"energy_j": None, "mean_w": None, "reason": "not recorded", "covered": found}
    answer: dict[str, Any] = {
        "energy_j": found.energy_j,
        "energy_wh": found.energy_j / _WH,
        "mean_w": found.mean_w,
        "covered": found.covered,
    }
    if asked.idle_w is not UNSET:
        answer["mean_w_over_idle"] = found.mean_w - asked.idle_w
    if asked.rate is not UNSET:
        if found.mean_w <= 0:
            raise FormatError('"power": the mean is 0 W, so there is no work per watt')
        answer["work_per_watt"] = answer["work_per_joule"] = asked.rate / found.mean_w
        if asked.price is not UNSET:
            answer["price_per_work"] = asked.price / asked.rate
    return answer


def _frontier(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.Frontier)
    told = named(asked.configurations, questions.Priced, "configurations")
    found = economy.frontier(
        {name: (one.price, one.values) for name, one in told.items()}, asked.direction, asked.margin
    )
    return _fields(found)


def _target(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.TargetRate)
    found = target_rate(asked.fps, asked.averages, asked.lows, thin=asked.thin, held_at=asked.held_at)
    return {"result": found.result, "average": found.average, "low": found.low, "passes": found.passes}


def _forecast(data: Data) -> dict[str, Any]:
    asked = checked(data, questions.ForecastJob)
    return _fields(forecast.forecast(asked.seconds, asked.done, asked.whole, asked.before_s))


FINDING_KINDS: Mapping[str, Callable[[Data], dict[str, Any]]] = {
    "overall": _overall,
    "sweep": _sweep,
    "chain": _chain,
    "grid": _grid,
    "scaling": _scaling,
    "crossover": _crossover,
    "economy": _economy,
    "frontier": _frontier,
    "target": _target,
    "forecast": _forecast,
}


def _compared(one: Pairwise) -> dict[str, Any]:
    return {"ratio": one.ratio, "low": one.low, "high": one.high, "verdict": one.verdict}


def _once(pairs: Iterable[tuple[Key, Value]], place: str) -> dict[Key, Value]:
    found: dict[Key, Value] = {}
    for at, (key, value) in enumerate(pairs, 1):
        if key in found:
            raise FormatError(f'"{place}", entry {at}: this one is there twice')
        found[key] = value
    return found


def _fields(found: Any) -> dict[str, Any]:
    return {field.name: getattr(found, field.name) for field in dataclasses.fields(found)}
