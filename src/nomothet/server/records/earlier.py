"""Records of an earlier format, told as today's pages read them; what is stored is never touched."""

from collections.abc import Mapping
from typing import Any

import msgspec

from nomothet.server.matrix.limits import LimitsCell, notes_of, told_of
from nomothet.server.records.content import FORMAT
from nomothet.words import says
from nomothet.words.numbers import difference_unit, figure, signed

Data = Mapping[str, Any]
_WITHOUT_NOTES = 2
_WITHOUT_LADDERS = 4
_WITHOUT_FINDINGS = 5
_WITHOUT_SAMPLES = 6
_WITHOUT_REFERENCES = 7
_UNPLANNED: Data = {"planned_passes": 0, "planned_s": 0.0}
# What earlier records say nothing of.
_UNSAID: Data = {
    "against": {},
    "effort": {**_UNPLANNED, "passes": 0, "measuring_s": 0.0, "changes": 0, "changing_s": 0.0, "days": 0, "by": {}},
    "metric_notes": {},
    "counted": {},
    "samples": {},
    "changes": [],
    "references": [],
    "measured_before": [],
}
_UNSTATED: Data = {"ladders": [], "picture_pairs": []}
# What passes of earlier records say nothing of.
_UNTOLD = {"action": "", "fallback": "", "run_group": "", "helped_by": "", "typed_by": ""}


def readable(content: Data) -> Data:
    """The content of a record in the present format.

    The first format told differences so that better was above 0; they become the plain change of the value. What it
    did not keep (parts, flags, marks, who measured) stays empty. The second left what a limit is told with to the page,
    and the third knew neither first runs nor who helped. The fourth had neither ladders nor pictures beside
    each other, the fifth a verdict of plain text, and no findings; the sixth did not keep what comparisons are made of,
    nor what was planned, the seventh no results from elsewhere.
    """
    kept = content.get("format", 1)
    if kept >= FORMAT:
        return content
    if kept >= _WITHOUT_SAMPLES:
        content = {**content, "references": [], "measured_before": []}
    if kept == _WITHOUT_REFERENCES:
        return content
    if kept == _WITHOUT_SAMPLES:
        return {**content, "samples": {}, "effort": {**_UNPLANNED, **content["effort"]}}
    content = {
        **content,
        "verdict": _verdict(content.get("review", {}).get("verdict", "")),
        "findings": [],
        "hypotheses": [],
        **_UNSAID,
    }
    if kept == _WITHOUT_FINDINGS:
        return content
    if kept == _WITHOUT_LADDERS:
        return {**content, **_UNSTATED}
    matrix = content["matrix"]
    if kept >= _WITHOUT_NOTES:
        passes = [{**_UNTOLD, **one} for one in content["passes"]]
        if kept == _WITHOUT_NOTES:
            matrix = {**matrix, "limits": [_limits(row) for row in matrix["limits"]]}
        matrix = {**matrix, "rows": [_untold_row(row) for row in matrix["rows"]]}
        return {
            **content,
            **_UNSTATED,
            "passes": passes,
            "matrix": {**matrix, "totals": {"first": 0, **matrix.get("totals", {})}},
        }
    return {
        **content,
        "format": 1,
        "configurations": [],
        **_UNSTATED,
        "measured_by": [],
        "passes": [_pass(one) for one in content["passes"]],
        "matrix": {
            **matrix,
            "rows": [_row(row, matrix) for row in matrix["rows"]],
            "limits": [_limits(row) for row in matrix.get("limits", [])],
            "alike": matrix.get("alike", []),
            "flags": [],
            "returned": [],
            "recounting": [],
            "progress": [_progress(row) for row in matrix["progress"]],
            "totals": {"first": 0, **matrix.get("totals", {})},
        },
    }


def _verdict(text: str) -> Data:
    """A verdict that was one text."""
    paragraphs = [[{"text": one.strip(), "finding": 0}] for one in text.split("\n\n") if one.strip()]
    whole = {
        "name": "",
        "outcome": "",
        "judged": [],
        "conditions": {"settings": "", "room": "", "workload": "", "basis": ""},
        "prices": [],
        "paragraphs": paragraphs,
    }
    return {"answer": "", "uses": [whole] if paragraphs else [], "signatures": [], "points": [], "checked": {}}


def _pass(one: Data) -> Data:
    frame = {"skip_s": 0.0, "end_cut_s": 0.0, "bands": [], "first_drop_s": None, "drop_cause": "", "limits": {}}
    words = one["outcome"].replace("_", " ")
    added = {"outcome_words": words, "note": "", "by": "", "started_at": None, "marks": [], "pictures": []}
    return {**added, **_UNTOLD, "frame": frame, **one}


def _untold_row(row: Data) -> Data:
    """A row of a record before idle baselines and kinds of rows were told."""
    cells = {column: {"idle": None, **cell} for column, cell in row["cells"].items()}
    return {"kind": "", "idle_off": False, "targets": {}, **row, "cells": cells}


def _row(row: Data, matrix: Data) -> Data:
    ratio = row["scale"] == "ratio"
    cells = {column: _cell(row, cell) for column, cell in row["cells"].items()}
    level = 100 - matrix.get("level_pct", 95.0)
    margin = matrix["margin_pct"] if ratio else None
    untold: dict[str, Any] = {
        "apart": {},
        "gaps": {},
        "reading": None,
        "untrusted": "",
        "kind": "",
        "idle_off": False,
        "targets": {},
    }
    return {**untold, **row, "margin": margin, "level_pct": level, "cells": cells}


def _cell(row: Data, cell: Data) -> Data:
    comparison = cell.get("comparison")
    return {
        "half_width": None,
        "methods": [],
        **cell,
        "why_not": cell.get("why_not") or "",
        "why_not_code": "",
        "comparison": _comparison(row, comparison) if comparison else None,
        "held_fps": None,
        "corrected": None,
        "idle": None,
        "sentence": "",
        "basis": [],
    }


def _comparison(row: Data, old: Data) -> Data:
    ratio, turned = row["scale"] == "ratio", row["direction"] == "lower"

    def plain(value: float | None) -> float | None:
        if value is None or not turned:
            return value
        return 100 / (1 + value / 100) - 100 if ratio else -value

    change = plain(old["effect_pct"]) or 0.0
    ends = (plain(old["low_pct"]), plain(old["high_pct"]))
    low, high = (ends[1], ends[0]) if turned else ends
    unit = "%" if ratio else difference_unit(row["unit"])
    multiple = ratio and change >= 100
    told = f"{figure(1 + change / 100)} ×" if multiple else f"{signed(change)} {unit}"
    interval = "" if low is None or high is None else f"{signed(low)} to {signed(high)} {unit}"
    return {
        "change": change,
        "low": low,
        "high": high,
        "better": -change if turned else change,
        "better_low": (None if high is None else -high) if turned else low,
        "better_high": (None if low is None else -low) if turned else high,
        "verdict": old["verdict"],
        "told": told,
        "interval": interval,
        "settling": "",
        "speed": "",
        "n": old["n"],
        "n_baseline": old["n_baseline"],
    }


def _limits(row: Data) -> Data:
    masked = {
        column: words if isinstance(words, dict) else {"by": "", "words": words}
        for column, words in row.get("masked", {}).items()
    }
    return {**row, "cells": {column: _noted(cell) for column, cell in row["cells"].items()}, "masked": masked}


def _noted(cell: Data) -> Data:
    """What is worth a look, which earlier formats left to the page to say."""
    read = msgspec.convert({**cell, "notes": [], "sentences": []}, LimitsCell)
    return {**cell, "notes": says(notes_of(read)), "sentences": says(told_of(read))}


def _progress(row: Data) -> Data:
    cells = {column: {"said": _said(cell), **cell} for column, cell in row["cells"].items()}
    return {**row, "cells": cells}


def _said(cell: Data) -> str:
    failed = [pip["words"] for pip in cell["pips"] if pip["state"] == "failed"]
    owed = [f"{cell['owed']} owed"] if cell.get("owed") else []
    return " · ".join([*dict.fromkeys(failed), *owed]) or "not run"
