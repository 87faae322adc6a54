"""The shelf as CSV (RFC 4180) and JSON, out and in."""

import csv
import io
import json
from collections.abc import Iterator
from typing import Any

from django.db import transaction

from nomothet.core.errors import BadQuantity
from nomothet.core.parts import KINDS
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import Problem, unusable
from nomothet.server.shapes import plain
from nomothet.server.shelf.commands import add_part, edit_part
from nomothet.server.shelf.models import Part

COLUMNS = ("kind", "name", "origin", "origin_note", "note", "attribute", "value", "unit", "source")
_MOST = 5000


def csv_lines() -> Iterator[str]:
    """One row per attribute; a part without any has one row with empty ones."""
    yield _line(COLUMNS)
    for part in Part.objects.filter(archived_at=None):
        head = (part.kind, part.name, part.origin, part.origin_note, part.note)
        for one in part.attributes or [{"key": "", "value": "", "unit": "", "source": ""}]:
            value = "" if one["value"] is None else str(one["value"])
            yield _line((*head, one["key"], value, one["unit"], one["source"]))


def as_json() -> list[dict[str, Any]]:
    """Parts with attributes and prices."""
    return [
        {
            "kind": part.kind,
            "name": part.name,
            "origin": part.origin,
            "origin_note": part.origin_note,
            "note": part.note,
            "attributes": part.attributes,
            "prices": [
                plain({"amount": str(p.amount), "currency": p.currency, "on": p.on, "basis": p.basis, "note": p.note})
                for p in part.prices.all()
            ],
        }
        for part in Part.objects.filter(archived_at=None).prefetch_related("prices")
    ]


def import_parts(user: User, text: str) -> dict[str, int]:
    """Take in parts from JSON or CSV text, all or none. A part of a known kind and name is brought up to date.

    Raises
    ------
    Problem
        422, naming the row or part and the remedy; nothing was stored.
    """
    require(user, Act.EDIT_SHELF)
    rows = _from_json(text) if text.lstrip().startswith("[") else _from_csv(text)
    counts = {"added": 0, "updated": 0, "unchanged": 0}
    with transaction.atomic():
        for where, row in rows:
            try:
                counts[_take(user, row)] += 1
            except BadQuantity as error:
                raise unusable(f"{where}: {error} Nothing was imported.", field=error.field) from None
            except Problem as problem:
                raise unusable(f"{where}: {problem.detail} Nothing was imported.") from None
    return counts


def _take(user: User, row: dict[str, Any]) -> str:
    kind, name = row.get("kind", ""), str(row.get("name", "")).strip()
    if kind not in KINDS:
        raise BadQuantity("kind", f"{kind!r} is no kind of part; it is one of {', '.join(KINDS)}.")
    if not name:
        raise BadQuantity("name", "A part needs a name.")
    fields: dict[str, Any] = {key: row[key] for key in ("origin", "origin_note", "note", "attributes") if key in row}
    if fields.get("origin", "bought") not in dict(Part._meta.get_field("origin").choices or []):
        raise BadQuantity("origin", f"{fields['origin']!r} is no origin.")
    part = Part.objects.select_for_update().filter(kind=kind, name=name).first()
    if part is None:
        add_part(user, kind=kind, name=name, **fields)
        return "added"
    before = {key: getattr(part, key) for key in fields}
    edit_part(user, part, fields)
    return "updated" if before != {key: getattr(part, key) for key in fields} else "unchanged"


def _from_json(text: str) -> list[tuple[str, dict[str, Any]]]:
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise unusable(f"This is no JSON: {error}. Nothing was imported.") from None
    if len(found) > _MOST:
        raise unusable(f"These are more than {_MOST} parts; import them in pieces.")
    if not all(isinstance(one, dict) for one in found):
        raise unusable("A list of parts holds objects with kind, name and attributes. Nothing was imported.")
    return [(f"part {at}", one) for at, one in enumerate(found, 1)]


def _from_csv(text: str) -> list[tuple[str, dict[str, Any]]]:
    reader = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")))
    missing = {"kind", "name"} - set(reader.fieldnames or [])
    if missing:
        raise unusable(
            f"The first line names no column {' and no column '.join(sorted(missing))}. "
            f"It names at least kind and name, or all of {', '.join(COLUMNS)}. Nothing was imported."
        )
    parts: dict[tuple[str, str], tuple[str, dict[str, Any]]] = {}
    for row in reader:
        if len(parts) >= _MOST:
            raise unusable(f"These are more than {_MOST} parts; import them in pieces.")
        key = (row["kind"] or "", row["name"] or "")
        _, part = parts.setdefault(key, (f"row {reader.line_num}", {"kind": key[0], "name": key[1], "attributes": []}))
        part |= {name: row[name] for name in ("origin", "origin_note", "note") if row.get(name)}
        if row.get("attribute"):
            part["attributes"].append(
                {"key": row["attribute"], "value": row.get("value") or None, "unit": row.get("unit") or "",
                 "source": row.get("source") or "unknown"}
            )  # fmt: skip
    return list(parts.values())


def _line(values: tuple[str, ...]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerow(values)
    return out.getvalue()
