"""`nomothet compare FILE.json`: cells against a baseline by section 3, as JSON keyed by cell."""

import argparse
import json
import math
from pathlib import Path
from typing import Any

from nomothet.core.compare_placed import PlacedComparison, compare_placed
from nomothet.core.noise import pooled_noise
from nomothet.core.rounds import Placed
from nomothet.formats.errors import FormatError
from nomothet.formats.json_files import checked, named, read_json
from nomothet.formats.questions import Compare, PlacedPass


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
    data = read_json(arguments.file)
    if not isinstance(data, dict):
        raise FormatError(f"{arguments.file.name} must hold an object with direction, margin, baseline and cells")
    asked = checked(data, Compare)
    cells = _cells(asked)
    compared = compare_placed(cells, asked.baseline, direction=asked.direction, margin=asked.margin)
    spread = pooled_noise([one.value for one in passes] for passes in cells.values()).sd
    print(json.dumps({name: _row(one, spread) for name, one in compared.items()}, indent=2, ensure_ascii=False))
    return 0


def _row(placed: PlacedComparison, spread: float) -> dict[str, Any]:
    """Ratios above 1 are better, whatever the direction; `value_ratio` is the plain ratio of the values compared."""
    comparison = placed.comparison
    if placed.by != "passes":
        spread = comparison.noise.sd
    return {
        "by": placed.by,
        "ratio": comparison.effect,
        "low": comparison.low,
        "high": comparison.high,
        "verdict": comparison.verdict,
        "df": comparison.noise.df,
        "pooled_cv": None if math.isnan(spread) else spread,
        "passes_needed": comparison.passes_needed,
        "value_ratio": comparison.change,
    }


def _cells(asked: Compare) -> dict[str, list[Placed]]:
    told = named(asked.cells, list[Any], "cells")
    cells = {name: [_placed(one, name, at) for at, one in enumerate(values, 1)] for name, values in told.items()}
    empty = [name for name, values in cells.items() if not values]
    if empty:
        raise FormatError(f'"cells", {empty[0]!r}: there is no value; leave a cell without passes out')
    if len(cells) < 2:
        raise FormatError('"cells" must hold two cells or more: there is nothing to compare')
    if asked.baseline not in cells:
        raise FormatError(f'"baseline" is {asked.baseline!r}; it must name one of the cells: {", ".join(cells)}')
    return cells


def _placed(given: object, cell: str, at: int) -> Placed:
    """A pass as a number, or with its round and session."""
    place = f'"cells", {cell!r}, entry {at}'
    if isinstance(given, dict):
        one = checked(given, PlacedPass, place)
        return Placed(one.value, one.round, one.session)
    return Placed(checked(given, float, place))
