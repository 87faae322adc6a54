"""A record as HTML: a page of its own, or one file that needs nothing else."""

import base64
import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import msgspec
from django.conf import settings
from django.template.loader import render_to_string
from django.utils.safestring import mark_safe

from nomothet.server.findings.shapes import FindingShape
from nomothet.server.passes.models import Picture
from nomothet.server.records.charts import chart_of
from nomothet.server.records.charts.room import NARROW, WIDE
from nomothet.server.records.earlier import readable
from nomothet.server.records.models import Record
from nomothet.server.records.page.results import read_choice, results_of, seal_of
from nomothet.server.records.page.told import (
    described,
    differences,
    impressions,
    interests,
    limited,
    measured,
    recipe,
    recommended,
    went_wrong,
)
from nomothet.server.records.questions import questions_under
from nomothet.words.numbers import unbroken

_STYLE = Path(__file__).parent.parent / "templates" / "records" / "record.css"
_FONTS = ("source-serif-4-latin-wght-normal", "source-sans-3-latin-wght-normal")
_FAMILIES = ("Source Serif 4", "Source Sans 3")


# Where what a page offers is found: package, figures, comparisons, captures and pictures; empty for one file.
Links = Mapping[str, str]


@dataclass(frozen=True)
class DrawnFinding:
    """A finding as the page shows it."""

    number: int
    kind: str
    sentence: str
    wide: str
    narrow: str
    caption: str
    heads: list[str]
    lines: list[list[str]]
    caveats: list[str]
    left_out: list[str]
    section: str


def render_page(
    record: Record,
    query: Mapping[str, str],
    *,
    base: str,
    nonce: str = "",
    alone: bool = False,
    problem: str = "",
    typed: Mapping[str, str] | None = None,
) -> str:
    """The page of a record.

    Parameters
    ----------
    query : mapping of str to str
        What the reader has chosen: baseline, metric, sort, find, every.
    base : str
        Where this installation is reached, such as "https://reviews.example".
    alone : bool
        Whether it is to be one file, with pictures and fonts in it.
    problem, typed : str, mapping
        Why a message of a reader was not taken, and what stood in its form.
    """
    content = readable(record.content)
    editions = list(Record.objects.filter(review=record.review_id).defer("content"))
    address = f"{base}/records/{record.slug}"
    newest = editions[0]
    links = {} if alone else _links(record)
    inside = _pictures_inside(record, content) if alone else {}
    context = {
        **_shown(content, query, links, inside),
        "record": record,
        "editions": editions,
        "newer": newest if newest.edition > record.edition else None,
        "before": next((one for one in editions if one.edition == record.edition - 1), None),
        "address": address,
        "structured": _structured(record, content, address),
        "fonts": mark_safe(_font_faces(alone=alone)),  # noqa: S308 - made of names of files
        "nonce": nonce,
        "alone": alone,
        "problem": problem,
        "typed": typed or {},
        "received": query.get("received") == "1",
        **questions_under(record),
    }
    return render_to_string("records/record.html", context)


def render_foreign(
    content: Mapping[str, Any], query: Mapping[str, str], *, about: Mapping[str, Any], links: Links, nonce: str = ""
) -> str:
    """The page of a record that was published elsewhere.

    Parameters
    ----------
    about : mapping
        Where it comes from: origin, edition, by, at, and how much was worked out again.
    links : mapping of str to str
        Where its package, tables and pictures are found.
    """
    content = readable(content)
    context = {
        **_shown(content, query, links, {}),
        "foreign": about,
        "fonts": mark_safe(_font_faces(alone=False)),  # noqa: S308 - made of names of files
        "nonce": nonce,
    }
    return render_to_string("records/record.html", context)


def _shown(
    content: Mapping[str, Any], query: Mapping[str, str], links: Links, inside: Mapping[int, str]
) -> dict[str, Any]:
    """What every page of a record shows, wherever it was published."""
    heads, rows = differences(content)
    return {
        "content": content,
        "review": content["review"],
        "verdict": content["verdict"],
        "uses": [_use(content, use) for use in content["verdict"]["uses"]],
        "findings": _findings(content),
        "results": results_of(content, read_choice(content, query)),
        "links": links,
        "beside": _beside(content),
        "difference_heads": heads,
        "differences": rows,
        "described": described(content),
        "measured": measured(content),
        "went_wrong": went_wrong(content),
        "recipe": recipe(content),
        "limited": limited(content),
        "explanations": [{key: unbroken(words) for key, words in one.items()} for one in content["hypotheses"]],
        "impressions": impressions(content),
        "recommended": recommended(content),
        "pairs": _pairs(content, links),
        "interests": interests(content),
        "pictures": _pictures(content, links, inside),
        "description": description_of(content),
        "style": mark_safe(_STYLE.read_text(encoding="utf-8")),  # noqa: S308 - a file of the program
    }


def _beside(content: Mapping[str, Any]) -> list[dict[str, Any]]:
    """References with the names of their rows."""
    names = {test["id"]: f"{test['name']} {test['detail']}".strip() for test in content["review"]["tests"]}
    metrics = {(row["test"], row["metric"]): row["label"].split(",")[0] for row in content["matrix"]["rows"]}
    return [
        {
            **one,
            "rows": [
                {**row, "label": f"{names[row['test']]}, {metrics.get((row['test'], row['metric']), row['metric'])}"}
                for row in one["rows"]
                if row["test"] in names
            ],
        }
        for one in content["references"]
    ]


def _links(record: Record) -> Links:
    return {
        "package": f"/records/{record.slug}/package.zip",
        "figures": f"/api/records/{record.slug}/figures.csv",
        "comparisons": f"/api/records/{record.slug}/comparisons.csv",
        "captures": f"/records/{record.slug}/captures",
        "pictures": f"/api/records/{record.slug}/pictures",
    }


def description_of(content: Mapping[str, Any]) -> str:
    """One line for those who see only the address."""
    answer = content["verdict"]["answer"]
    labels = ", ".join(column["label"] for column in content["review"]["columns"])
    return answer or f"{labels}, over {len(content['review']['tests'])} tests."


def findings_in(content: Mapping[str, Any]) -> list[tuple[int, FindingShape]]:
    """The findings of a record with their numbers."""
    return [(one["number"], msgspec.convert(one["finding"], FindingShape)) for one in content["findings"]]


def positions_in(content: Mapping[str, Any]) -> dict[int, int]:
    """Where each configuration's seal stands among the letters."""
    return {column["id"]: column["position"] for column in content["review"]["columns"]}


def _findings(content: Mapping[str, Any]) -> list[DrawnFinding]:
    positions = positions_in(content)
    made = []
    for number, one in findings_in(content):
        wide, narrow = chart_of(one, positions, WIDE), chart_of(one, positions, NARROW)
        made.append(
            DrawnFinding(
                number, one.kind_words, unbroken(one.sentence), _safe(wide.svg), _safe(narrow.svg), wide.caption,
                one.heads, one.lines, one.caveats, one.left_out, one.section,
            )
        )  # fmt: skip
    return made


def _use(content: Mapping[str, Any], use: Mapping[str, Any]) -> dict[str, Any]:
    columns = {column["id"]: column for column in content["review"]["columns"]}
    prices = {one["column"]: one["words"] for one in use["prices"]}
    calls = ("advised", "acceptable", "not advised", "not judged")
    judged = [
        {
            "call": call,
            "label": columns[one["column"]]["label"],
            "seal": _safe(seal_of(columns[one["column"]]["position"])),
            "note": one.get("note", ""),
            "price": prices.get(one["column"], ""),
        }
        for call in calls
        for one in use["judged"]
        if one["call"] == call and one["column"] in columns
    ]
    conditions = [use["conditions"].get(key, "") for key in ("settings", "workload", "room")]
    paragraphs = [[{**one, "text": unbroken(one["text"])} for one in paragraph] for paragraph in use["paragraphs"]]
    return {**use, "paragraphs": paragraphs, "judged": judged, "holds": ", ".join(one for one in conditions if one)}


def _pictures_inside(record: Record, content: Mapping[str, Any]) -> dict[int, str]:
    """The pictures of a record as addresses that hold them, small."""
    shown = [picture["id"] for one in content["passes"] for picture in one.get("pictures", [])]
    found = Picture.objects.filter(pk__in=shown, owner__in=record.passes.all())
    return {one.pk: f"data:image/jpeg;base64,{base64.b64encode(bytes(one.thumbnail)).decode()}" for one in found}


def _pictures(content: Mapping[str, Any], links: Links, inside: Mapping[int, str]) -> list[dict[str, str]]:
    names = {test["id"]: test["name"] for test in content["review"]["tests"]}
    labels = {column["id"]: column["label"] for column in content["review"]["columns"]}
    shown = [(one, picture) for one in content["passes"] for picture in one.get("pictures", [])]
    return [
        {
            "address": inside.get(picture["id"]) or f"{links.get('pictures', '')}/{picture['id']}",
            "words": f"{names.get(one['test'], '')} on {labels.get(one['column'], '')}, pass {one['number']}"
            + (f": {picture['caption']}" if picture["caption"] else ""),
        }
        for one, picture in shown
    ]


def _pairs(content: Mapping[str, Any], links: Links) -> list[dict[str, Any]]:
    """Pictures beside each other, with what is said of them; one file has the words alone."""
    labels = {column["id"]: column["label"] for column in content["review"]["columns"]}
    return [
        {
            "said": pair["said"],
            "sides": []
            if not links
            else [
                {
                    "address": f"{links['pictures']}/{side['id']}",
                    "words": f"{labels.get(side['column'], '')}, pass {side['number']}",
                }
                for side in (pair["a"], pair["b"])
            ],
        }
        for pair in content["picture_pairs"]
    ]


def _structured(record: Record, content: Mapping[str, Any], address: str) -> str:
    """The record as a Dataset of schema.org, for those who collect them."""
    told = {
        "@context": "https://schema.org",
        "@type": "Dataset",
        "name": content["review"]["question"],
        "description": description_of(content),
        "url": address,
        "version": str(record.edition),
        "datePublished": str(content["published_at"])[:10],
        "creator": [{"@type": "Person", "name": name} for name in {content["published_by"]: None}],
        "measurementTechnique": sorted({test["name"] for test in content["review"]["tests"]}),
        "variableMeasured": sorted({row["label"] for row in content["matrix"]["rows"]}),
        "distribution": [
            {
                "@type": "DataDownload",
                "encodingFormat": "text/csv",
                "contentUrl": address.replace("/records/", "/api/records/") + "/figures.csv",
            }
        ],
    }
    # Nothing in it may end the element that it stands in (HTML, section 4.12.1.3).
    return _safe(json.dumps(told, ensure_ascii=False).replace("<", "\\u003c"))


def _safe(text: str) -> str:
    """What was made with every value escaped."""
    return mark_safe(text)  # noqa: S308 - made by charts and JSON above, which escape


@cache
def _font_files() -> tuple[Path, ...]:
    folder = settings.WEB_DIST / "assets"
    return tuple(next(iter(sorted(folder.glob(f"{name}-*.woff2"))), Path()) for name in _FONTS)


def _font_faces(*, alone: bool) -> str:
    made = []
    for family, file in zip(_FAMILIES, _font_files(), strict=True):
        if not file.name:
            continue
        source = f"/assets/{file.name}"
        if alone:
            source = f"data:font/woff2;base64,{base64.b64encode(file.read_bytes()).decode()}"
        made.append(
            f"@font-face{{font-family:'{family}';font-weight:200 900;font-display:swap;"
            f"src:url({source}) format('woff2')}}"
        )
    return "".join(made)
