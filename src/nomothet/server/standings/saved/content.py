"""What a published standing shows: plain words and figures, without the questions of reviews."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.http import QueryDict
from django.utils import timezone

from nomothet.server.problems import unusable
from nomothet.server.standings.choice import read_choice
from nomothet.server.standings.models import TestSet
from nomothet.server.standings.placing import ReasonShape
from nomothet.server.standings.sets.standing import SetRow, SetStanding, set_standing
from nomothet.server.standings.standing import StandingRow, StandingShape, standing_pages
from nomothet.words.lists import and_list
from nomothet.words.numbers import figure, with_unit

KNOWN = (
    "workload", "settings", "metric", "against", "words", "system", "since", "until", "having", "basis", "prices",
    "as", "set",
)  # fmt: skip
_LONGEST = 1000


def read_query(told: Mapping[str, Any]) -> dict[str, str]:
    """The parameters of a standing's address that it knows.

    Raises
    ------
    Problem
        422 when it names neither a workload nor a set.
    """
    found = {name: str(told[name])[:_LONGEST] for name in KNOWN if told.get(name)}
    if "workload" not in found and "set" not in found:
        raise unusable("Name the workload or the set whose standing it is.", field="query")
    return found


def content_of(query: Mapping[str, str]) -> dict[str, Any]:
    """The standing of an address as it is now.

    Raises
    ------
    Problem
        422 when nothing stands there.
    """
    if "set" in query:
        found = TestSet.objects.filter(pk=query["set"]).first() if query["set"].isdigit() else None
        if found is None:
            raise unusable("There is no such set of tests.", field="query")
        against = query.get("against", "")
        return _of_set(set_standing(found, int(against) if against.isdigit() else None, most=None))
    told = QueryDict(mutable=True)
    told.update({name: value for name, value in query.items() if name not in ("workload", "as")})
    pages = list(standing_pages(read_choice(query["workload"], told)))
    if not pages:
        raise unusable("No pass of this workload counts yet.", field="query")
    return _of_workload(pages)


def _of_workload(pages: Sequence[StandingShape]) -> dict[str, Any]:
    shown, rows = pages[0], [row for page in pages for row in page.rows]
    metric = next(one for one in shown.all_metrics if one.key == shown.metric)
    settings = next(one for one in shown.all_settings if one.key == shown.settings)
    direction = "" if metric.direction == "neither" else f"{metric.direction} is better"
    beside = [one for one in rows if one.place != "not beside"]
    return {
        "as_of": timezone.now().isoformat(),
        "about": ", ".join(filter(None, [shown.name, settings.words, metric.label, metric.unit, direction])),
        "margin": "" if shown.margin_pct is None else f"{shown.margin_pct:g} %",
        "tests": [],
        "rows": [_row(one, metric.unit) for one in beside],
        "apart": [
            {"label": _title(one), "why": "; ".join(why.words for why in one.reasons)}
            for one in rows
            if one.place == "not beside"
        ],
    }


def _row(one: StandingRow, unit: str) -> dict[str, Any]:
    half = "" if one.half is None else f" ± {figure(one.half)}"
    return {
        "label": _title(one),
        "figure": "none" if one.centre is None else f"{with_unit(one.centre, unit)}{half}",
        "n": one.n,
        "day": one.last_at.date().isoformat(),
        "reference": one.place == "reference",
        "told": one.told,
        "interval": one.interval,
        "verdict": "" if one.verdict == "no margin" else one.verdict,
        "warnings": _warnings(one.reasons),
        "before": one.measured_before,
    }


def _of_set(shown: SetStanding) -> dict[str, Any]:
    ranked = [one for one in shown.rows if one.place != "left out"]
    return {
        "as_of": timezone.now().isoformat(),
        "about": f"One ratio over {_tests(len(shown.items))}: {shown.name}, edition {shown.edition}",
        "margin": f"{100 * shown.margin:g} %",
        "tests": [
            f"{item.words}, version {item.version}" + (f", weight {item.weight:g}" if item.weight != 1 else "")
            for item in shown.items
        ],
        "rows": [_set_row(one) for one in ranked],
        "apart": [{"label": one.label, "why": "; ".join(_lacks(one))} for one in shown.rows if one.place == "left out"],
    }


def _set_row(one: SetRow) -> dict[str, Any]:
    told, _, interval = one.told.partition(" (")
    return {
        "label": one.label,
        "figure": "",
        "n": sum(cell.n for cell in one.cells),
        "day": max(cell.last_at for cell in one.cells).date().isoformat(),
        "reference": one.place == "reference",
        "told": told,
        "interval": interval.removesuffix(")"),
        "verdict": one.verdict,
        "warnings": _warnings([why for cell in one.cells for why in cell.reasons]),
        "before": list(dict.fromkeys(words for cell in one.cells for words in cell.measured_before)),
    }


def _tests(count: int) -> str:
    return "one test" if count == 1 else f"{count} tests"


def _lacks(one: SetRow) -> list[str]:
    missing = and_list([str(at + 1) for at in one.missing])
    told = [f"lacks {'test' if len(one.missing) == 1 else 'tests'} {missing}"] if missing else []
    return [*told, *one.apart]


def _warnings(reasons: list[ReasonShape]) -> list[str]:
    return list(dict.fromkeys(one.words for one in reasons))


def _title(one: StandingRow) -> str:
    return one.label if one.system.casefold() in one.label.casefold() else f"{one.system}, {one.label}"
