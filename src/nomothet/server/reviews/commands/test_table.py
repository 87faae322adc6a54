"""Several tests at once from a table: workloads in the first column, settings in the others."""

import math
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Any

from django.db import transaction
from django.utils.text import slugify

from nomothet.core.errors import BadQuantity
from nomothet.formats.pasted import cells_by_line
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import unusable
from nomothet.server.reviews.commands.tests import MOST_TESTS, add_test_rows, allowed_value, detail_of
from nomothet.server.reviews.models import Review
from nomothet.server.systems.models import Bundle
from nomothet.server.workloads.commands import add_workload
from nomothet.server.workloads.models import Kind, Workload

# Heads of columns that say something of the workload itself: its version, and what kind a new one is.
_VERSION = ("version", "edition")
_KIND = ("kind",)
_KINDS = {
    "game": Kind.SCENE, "scene": Kind.SCENE, "suite": Kind.SUITE, "task": Kind.TASK, "soak": Kind.SOAK,
    "idle": Kind.IDLE, "observation": Kind.OBSERVATION,
}  # fmt: skip
# What a new workload reports, by its kind; a scene has average and lows without it.
_REPORTS: Mapping[Kind, Mapping[str, str]] = {
    Kind.SUITE: {"key": "score", "label": "score", "unit": "points", "direction": "higher", "scale": "ratio"},
    Kind.TASK: {"key": "time", "label": "time", "unit": "s", "direction": "lower", "scale": "ratio"},
}


@dataclass(frozen=True)
class TableTest:
    """A test that a table names. Without a workload it is of one that is still to be made; `problem` says why not."""

    line: int
    name: str
    version: str
    workload: int | None
    settings: Mapping[str, Any]
    detail: str
    problem: str
    there: bool = False
    kind: Kind = Kind.SCENE


@dataclass(frozen=True)
class _Row:
    number: int
    name: str
    version: str
    kind: str
    cells: Mapping[str, str]


def read_test_table(review: Review, text: str) -> list[TableTest]:
    """The tests of a table: its first line names the settings, each other line a workload with their values.

    Several values of a cell, with commas between them, make a test each. A workload that the catalogue does not know
    is told, and made when the table is stored with `make`.

    Raises
    ------
    Problem
        422 where the table has no line of a workload.
    """
    rows = _rows(text)
    bundles: _Bundles = {
        (one.workload, _plain(one.family), _plain(one.name)): one.settings
        for one in Bundle.objects.exclude(workload="")
    }
    known: dict[str, list[Workload]] = {}
    for workload in Workload.objects.filter(archived_at=None):
        known.setdefault(_plain(workload.name), []).append(workload)
        known.setdefault(_plain(f"{workload.name} {workload.version}"), []).append(workload)
    there = [(test.workload_id, test.settings) for test in review.tests.all()]
    return [one for row in rows for one in _tests_of(row, known.get(_plain(row.name), []), bundles, there)]


def store_test_table(user: User, review: Review, text: str, *, make: bool) -> int:
    """Add the tests of a table, all or none; those that the review has already are passed over."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        found = read_test_table(review, text)
        new = list(dict.fromkeys((one.name, one.version) for one in found if one.workload is None and not one.problem))
        if new and not make:
            names = ", ".join(name for name, _ in new)
            raise unusable(f"The catalogue has no {names}. Make these workloads, or choose others.", field="text")
        for name, version in new:
            own = [one for one in found if (one.name, one.version) == (name, version)]
            _make_workload(user, name, version, own)
        if new:
            found = read_test_table(review, text)
        wrong = next((one for one in found if one.problem), None)
        if wrong is not None:
            raise unusable(f"Line {wrong.line}: {wrong.problem} Nothing was added.", field="text")
        fresh = [one for one in found if not one.there]
        if review.tests.count() + len(fresh) > MOST_TESTS:
            raise unusable(f"A review has {MOST_TESTS} tests at most; take some lines out.", field="text")
        if not fresh:
            raise unusable("This review has these tests already.", field="text")
        workloads = Workload.objects.in_bulk({one.workload for one in fresh if one.workload is not None})
        add_test_rows(user, review, [(workloads[one.workload or 0], one.settings) for one in fresh])
    return len(fresh)


def _rows(text: str) -> list[_Row]:
    lines = [(number, cells) for number, cells in enumerate(cells_by_line(text), 1) if cells]
    if len(lines) < 2:
        raise unusable(
            "The first line names the settings, such as workload, resolution, preset; each other line is a test.",
            field="text",
        )
    heads = lines[0][1][1:]
    rows = []
    for number, cells in lines[1:]:
        told = dict(zip(heads, cells[1:], strict=False))
        version, kind = (
            next((told.pop(head) for head in heads if head.casefold() in names and head in told), "")
            for names in (_VERSION, _KIND)
        )
        rows.append(_Row(number, cells[0], version, kind, {head: cell for head, cell in told.items() if cell}))
    return rows


def _tests_of(
    row: _Row, named: Sequence[Workload], bundles: "_Bundles", there: Sequence[tuple[int, Any]]
) -> Iterator[TableTest]:
    if not row.name:
        yield TableTest(row.number, "", row.version, None, {}, "", "Its first cell names no workload.")
        return
    fitting = [one for one in named if not row.version or one.version == row.version]
    fitting = list({one.pk: one for one in fitting}.values())
    if len(fitting) > 1:
        versions = ", ".join(sorted(one.version for one in fitting))
        words = f"{row.name} is there in several versions: {versions}. Say which, in a column named version."
        yield TableTest(row.number, row.name, row.version, None, {}, "", words)
        return
    workload = fitting[0] if fitting else None
    for settings in _combinations(row.cells):
        yield _test_of(row, workload, settings, bundles, there)


def _test_of(
    row: _Row,
    workload: Workload | None,
    cells: Mapping[str, str],
    bundles: "_Bundles",
    there: Sequence[tuple[int, Any]],
) -> TableTest:
    if workload is None:
        settings = {_key(head): _value(text) for head, text in cells.items()}
        kind = _kind(row)
        problem = "" if kind else f"{row.kind!r} is no kind of workload; it is one of {', '.join(_KINDS)}."
        detail = " · ".join(cells.values())
        return TableTest(
            row.number, row.name, row.version or "1", None, settings, detail, problem, kind=kind or Kind.SCENE
        )
    settings, problem = {}, ""
    try:
        told = _unbundled(workload, cells, bundles)
        settings = {_setting(workload, head): _value(text) for head, text in told.items()}
        settings = {key: allowed_value(workload, key, value) for key, value in settings.items()}
    except BadQuantity as error:
        problem = str(error)
    known = (workload.pk, settings) in there
    detail = detail_of(workload, settings) if not problem else ""
    return TableTest(row.number, workload.name, workload.version, workload.pk, settings, detail, problem, known)


# What a bundle's family and name stand for in tests of a workload.
_Bundles = Mapping[tuple[str, str, str], Mapping[str, Any]]


def _unbundled(workload: Workload, cells: Mapping[str, str], bundles: _Bundles) -> dict[str, str]:
    """The cells with a bundle's settings in place of its name; what stands beside it goes before them."""
    found: dict[str, str] = {}
    for head, text in cells.items():
        settings = bundles.get((workload.key, _plain(head), _plain(text)))
        if settings is not None:
            found = {**{key: str(value) for key, value in settings.items()}, **found}
        else:
            found[head] = text
    return found


def _combinations(cells: Mapping[str, str]) -> Iterator[dict[str, str]]:
    several = [[one.strip() for one in text.split(",") if one.strip()] for text in cells.values()]
    if math.prod(map(len, several)) > MOST_TESTS:
        raise unusable(f"One line makes more than {MOST_TESTS} tests; take some values out.", field="text")
    for values in product(*several):
        yield dict(zip(cells, values, strict=True))


def _kind(row: _Row) -> Kind | None:
    """The kind of a new workload; without a word, one whose name begins with idle is an idle baseline."""
    if not row.kind:
        return Kind.IDLE if _plain(row.name).split()[:1] == ["idle"] else Kind.SCENE
    return _KINDS.get(_plain(row.kind))


def _make_workload(user: User, name: str, version: str, tests: Sequence[TableTest]) -> None:
    """A workload that is read by hand: its settings are the heads of the table, its figures those of its kind."""
    keys = dict.fromkeys(key for one in tests for key in one.settings)
    settings = [{"key": key, "label": key.replace("_", " ")} for key in keys]
    key = slugify(name)[:50] or "workload"
    kind = tests[0].kind
    metrics = [dict(_REPORTS[kind])] if kind in _REPORTS else []
    add_workload(user, key=key, name=name, version=version, kind=kind, settings=settings, metrics=metrics)


def _setting(workload: Workload, head: str) -> str:
    """A setting of a workload by its label or its key."""
    plain = _plain(head)
    for one in workload.settings:
        if plain in (_plain(one["label"]), _plain(one["key"]), _plain(f"{one['label']} {one.get('unit', '')}")):
            return str(one["key"])
    return _key(head)


def _key(head: str) -> str:
    key = re.sub(r"[^a-z0-9]+", "_", head.casefold()).strip("_")
    if not re.match(r"[a-z]", key):
        raise unusable(f"{head!r} cannot be the name of a setting; begin it with a letter.", field="text")
    return key[:60]


def _value(text: str) -> Any:
    try:
        number = float(text)
    except ValueError:
        return text
    return int(number) if number.is_integer() else number


def _plain(text: str) -> str:
    return re.sub(r"[\W_]+", " ", text.casefold()).strip()
