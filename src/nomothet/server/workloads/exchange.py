"""Workloads as JSON and CSV, out and in."""

import csv
import io
import json
from collections.abc import Iterator
from typing import Any

from django.db import transaction
from rest_framework.exceptions import ValidationError

from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import Problem, unusable
from nomothet.server.workloads.commands import EDITABLE, add_workload, edit_workload
from nomothet.server.workloads.forms import WorkloadSerializer
from nomothet.server.workloads.models import Workload

FIELDS = ("key", "version", *EDITABLE)
# What a cell of CSV holds as JSON.
_NESTED = ("steps", "command", "settings", "metrics", "requirements", "rules", "comparable", "checks")


def as_json() -> list[dict[str, Any]]:
    shown = Workload.objects.filter(archived_at=None)
    return [{field: _held(one, field) for field in FIELDS} for one in shown]


def _held(workload: Workload, field: str) -> Any:
    """A field as it goes out; a workload without a command has none rather than an empty one."""
    value = getattr(workload, field)
    return None if field == "command" and not value else value


def csv_lines() -> Iterator[str]:
    """One row per workload; lists and commands are JSON in their cells."""
    yield _line(FIELDS)
    for one in as_json():
        yield _line([_cell(field, one[field]) for field in FIELDS])


def _cell(field: str, value: Any) -> Any:
    return json.dumps(value, ensure_ascii=False) if field in _NESTED and value is not None else value


def import_workloads(user: User, text: str) -> dict[str, int]:
    """Take in workloads from JSON or CSV text, all or none; one of a known key and version is brought up to date.

    Raises
    ------
    Problem
        Naming the workload and the remedy; nothing was stored.
    """
    require(user, Act.EDIT_WORKLOADS)
    rows = _from_json(text) if text.lstrip().startswith("[") else _from_csv(text)
    counts = {"added": 0, "updated": 0, "unchanged": 0}
    with transaction.atomic():
        for at, row in enumerate(rows, 1):
            try:
                counts[_take(user, row)] += 1
            except ValidationError as error:
                field, words = (
                    next(iter(error.detail.items())) if isinstance(error.detail, dict) else ("", error.detail)
                )
                raise unusable(f"Workload {at}: {field}: {_flat(words)} Nothing was imported.", field=field) from None
            except Problem as problem:
                raise unusable(f"Workload {at}: {problem.detail} Nothing was imported.") from None
    return counts


def _take(user: User, row: dict[str, Any]) -> str:
    form = WorkloadSerializer(data=row)
    form.is_valid(raise_exception=True)
    fields = form.validated_data
    known = Workload.objects.select_for_update().filter(key=fields["key"], version=fields["version"]).first()
    if known is None:
        add_workload(user, **fields)
        return "added"
    changes = {field: value for field, value in fields.items() if _held(known, field) != value}
    if not changes:
        return "unchanged"
    edit_workload(user, known, changes)
    return "updated"


def _from_json(text: str) -> list[dict[str, Any]]:
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise unusable(f"This is no JSON: {error}. Nothing was imported.") from None
    if not all(isinstance(one, dict) for one in found):
        raise unusable("A list of workloads holds objects. Nothing was imported.")
    return list(found)


def _from_csv(text: str) -> list[dict[str, Any]]:
    reader = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")))
    missing = {"key", "name", "version", "kind"} - set(reader.fieldnames or [])
    if missing:
        raise unusable(f"The first line names no {', no '.join(sorted(missing))}. Nothing was imported.")
    rows = []
    for row in reader:
        fields: dict[str, Any] = {key: value for key, value in row.items() if key in FIELDS and value not in ("", None)}
        for name in _NESTED:
            if name in fields:
                try:
                    fields[name] = json.loads(fields[name])
                except ValueError:
                    raise unusable(
                        f"Row {reader.line_num}: {name} is written as JSON. Nothing was imported.", field=name
                    ) from None
        rows.append(fields)
    return rows


def _flat(words: Any) -> str:
    while isinstance(words, list | dict):
        words = words[0] if isinstance(words, list) else next(iter(words.values()))
    return str(words)


def _line(values: Any) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerow(["" if value is None else value for value in values])
    return out.getvalue()
