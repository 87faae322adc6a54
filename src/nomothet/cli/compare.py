"""`nomothet compare FILE.json`: cells against a baseline by section 3, as JSON keyed by cell."""

import argparse
import json
import math
from pathlib import Path
from typing import Any

from nomothet.core.compare import DEFAULT_MARGIN, Comparison, compare_with_baseline
from nomothet.formats.errors import FormatError


def add_to(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    parser = commands.add_parser("compare", help="compare cells of passes with a baseline")
    parser.add_argument(
        "file",
        type=Path,
        metavar="FILE.json",
        help='{"direction": "higher" or "lower", "margin": 0.03, "baseline": "A", "cells": {"A": [..], "B": [..]}}',
    )
    parser.set_defaults(run=_run)


def _run(arguments: argparse.Namespace) -> int:
    plan = _plan(arguments.file)
    compared = compare_with_baseline(
        plan["cells"], plan["baseline"], direction=plan["direction"], margin=plan["margin"]
    )
    print(json.dumps({name: _row(comparison) for name, comparison in compared.items()}, indent=2, ensure_ascii=False))
    return 0


def _row(comparison: Comparison) -> dict[str, Any]:
    """Ratios above 1 are better, whatever the direction; `value_ratio` is the plain ratio of the centres."""
    noise = comparison.noise
    return {
        "ratio": comparison.effect,
        "low": comparison.low,
        "high": comparison.high,
        "verdict": comparison.verdict,
        "df": noise.df,
        "pooled_cv": None if math.isnan(noise.sd) else noise.sd,
        "passes_needed": comparison.passes_needed,
        "value_ratio": comparison.value_ratio,
    }


def _plan(path: Path) -> dict[str, Any]:
    try:
        plan = json.loads(path.read_text(encoding="utf-8"))
    except json.JSONDecodeError as error:
        raise FormatError(f"{path.name}, line {error.lineno}: not JSON: {error.msg}") from None
    except UnicodeDecodeError:
        raise FormatError(f"{path.name} is not UTF-8 text; save it as JSON in UTF-8") from None
    if not isinstance(plan, dict):
        raise FormatError(f"{path.name} must hold an object with direction, margin, baseline and cells")
    return {
        "direction": _direction(plan.get("direction", "higher")),
        "margin": _margin(plan.get("margin", DEFAULT_MARGIN)),
        "baseline": _baseline(plan.get("baseline")),
        "cells": _cells(plan.get("cells")),
    }


def _direction(value: object) -> str:
    if value not in ("higher", "lower"):
        raise FormatError(f'"direction" is {json.dumps(value)}; it must be "higher" or "lower"')
    return str(value)


def _margin(value: object) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value < math.inf:
        raise FormatError(f'"margin" is {json.dumps(value)}; it must be a fraction such as 0.03')
    return float(value)


def _baseline(value: object) -> str:
    if not isinstance(value, str):
        raise FormatError('"baseline" must name one of the cells')
    return value


def _cells(value: object) -> dict[str, list[float]]:
    if not isinstance(value, dict) or not value:
        raise FormatError('"cells" must be an object with a list of values for each cell')
    for name, values in value.items():
        if not isinstance(values, list):
            raise FormatError(f"cell {name!r} must hold a list of numbers")
        for at, number in enumerate(values, start=1):
            if isinstance(number, bool) or not isinstance(number, int | float):
                raise FormatError(f"cell {name!r}, value {at}: {json.dumps(number)} is not a number")
    return value
