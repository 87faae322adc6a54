"""Several parts of one kind from a pasted table: a line for each, a column for each attribute."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.core.errors import BadQuantity
from nomothet.core.parts import KINDS, PRICE_BASES, Attribute, read_attributes
from nomothet.core.quantities import Spec, text_of
from nomothet.formats.pasted.grids import grids_of
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import unusable
from nomothet.server.shelf.commands import add_part, add_price
from nomothet.server.shelf.models import Part

_MOST = 200
_NAMES = ("name", "part", "model")
_ORIGIN, _PRICE, _BASIS = "origin", "price", "basis"
_USUAL_BASIS = "street"
_AMOUNT = re.compile(r"(?:€|EUR)?\s*(\d{1,9}(?:[.,]\d{1,2})?)\s*(?:€|EUR)?", re.IGNORECASE)
_UNIT = re.compile(r"\s*(?:\(([^()]{1,12})\)|\bin ([^\s]{1,12}))\s*$")


@dataclass(frozen=True)
class PastedPart:
    """One line of the table; `there` where the shelf has the part, which is then left as it is."""

    line: int
    name: str
    facts: list[str]
    there: bool
    problem: str


@dataclass(frozen=True)
class PastedPartsShape:
    parts: list[PastedPart]
    stored: int


@dataclass(frozen=True)
class _Line:
    number: int
    name: str
    origin: str
    attributes: list[Attribute]
    price: Decimal | None
    basis: str
    problem: str


def look_at_parts(kind: str, text: str, source: str) -> PastedPartsShape:
    """What a table would put on the shelf."""
    lines = _lines(kind, text, source)
    return PastedPartsShape([_shape(one, there) for one, there in _with_known(kind, lines)], 0)


def store_parts(user: User, kind: str, text: str, source: str) -> PastedPartsShape:
    """Put the parts of a table on the shelf, all or none; what is there already stays as it is.

    Raises
    ------
    Problem
        422 naming the line and the remedy.
    """
    require(user, Act.EDIT_SHELF)
    known = _with_known(kind, _lines(kind, text, source))
    wrong = next((one for one, _ in known if one.problem), None)
    if wrong is not None:
        raise unusable(f"Line {wrong.number}: {wrong.problem} Nothing was added.", field="text")
    stored = 0
    with transaction.atomic():
        for one, there in known:
            if not there:
                given = [_given(attribute) for attribute in one.attributes]
                origin = {"origin": one.origin} if one.origin else {}
                part = add_part(user, kind=kind, name=one.name, attributes=given, **origin)
                if one.price is not None:
                    today = timezone.localdate()
                    add_price(user, part, amount=one.price, currency="EUR", on=today, basis=one.basis)
                stored += 1
    return PastedPartsShape([_shape(one, there) for one, there in known], stored)


def _given(one: Attribute) -> dict[str, Any]:
    return {"key": one.key, "label": one.label, "value": one.value, "unit": one.unit, "source": one.source}


def _with_known(kind: str, lines: Sequence[_Line]) -> list[tuple[_Line, bool]]:
    names = {name.casefold() for name in Part.objects.filter(kind=kind).values_list("name", flat=True)}
    return [(one, one.name.casefold() in names) for one in lines]


def _shape(one: _Line, there: bool) -> PastedPart:
    facts = [f"{a.label} {text_of(Spec(a.key, a.label, unit=a.unit), a.value)}" for a in one.attributes]
    facts += [f"{one.price:.2f} EUR, {one.basis}"] if one.price is not None else []
    return PastedPart(one.number, one.name, facts, there, one.problem)


def _lines(kind: str, text: str, source: str) -> list[_Line]:
    head, *rest = grids_of(text)[0]
    specs = {spec.key: spec for spec in KINDS[kind].attributes}
    heads = [_head(cell, specs) for cell in head]
    at_name = next((at for at, cell in enumerate(head) if cell.strip().casefold() in _NAMES), None)
    if at_name is None or not rest:
        raise unusable(
            "The first line names the columns, one of them name; each other line is a part. "
            f"A {KINDS[kind].label} has {', '.join(spec.label for spec in specs.values())}, and what else you say.",
            field="text",
        )
    if len(rest) > _MOST:
        raise unusable(f"These are more than {_MOST} parts; paste them in pieces.", field="text")
    origins = dict(Part._meta.get_field("origin").choices or [])
    seen: set[str] = set()
    lines = []
    for number, cells in enumerate(rest, 2):
        name, problem = " ".join(cells[at_name].split())[:121], ""
        said = {_ORIGIN: "", _PRICE: "", _BASIS: _USUAL_BASIS}
        given = []
        for at, cell in enumerate(cells):
            value = cell.strip()
            if at == at_name or not value or not heads[at]:
                continue
            if heads[at]["key"] in said:
                said[heads[at]["key"]] = value
            else:
                given.append({**heads[at], "value": _value(value, heads[at]), "source": source})
        attributes: list[Attribute] = []
        try:
            attributes = read_attributes(kind, given)
        except BadQuantity as error:
            problem = str(error)
        if not name:
            problem = "The part has no name."
        elif len(name) > 120:
            problem = "Its name is longer than 120 characters."
        elif name.casefold() in seen:
            problem = f"{name} is there twice; keep one line of it."
        elif said[_ORIGIN] and said[_ORIGIN] not in origins:
            problem = f"{said[_ORIGIN]!r} is no origin; it is one of {', '.join(origins)}."
        elif said[_BASIS] not in PRICE_BASES:
            problem = f"{said[_BASIS]!r} is no basis of a price; it is one of {', '.join(PRICE_BASES)}."
        price = _price(said[_PRICE])
        if said[_PRICE] and price is None:
            problem = problem or f"{said[_PRICE]!r} is no price in EUR; one in another currency is added on the shelf."
        seen.add(name.casefold())
        lines.append(_Line(number, name, said[_ORIGIN], attributes, price, said[_BASIS], problem))
    return lines


def _price(text: str) -> Decimal | None:
    """An amount in EUR, with or without its sign; None where it is none."""
    found = _AMOUNT.fullmatch(text)
    return Decimal(found[1].replace(",", ".")) if found else None


def _head(cell: str, specs: Mapping[str, Spec]) -> dict[str, str]:
    """What a head means: an attribute of the kind by its label or key, or a free one with its unit."""
    words = " ".join(cell.split())
    unit = _UNIT.search(words)
    plain = words[: unit.start()] if unit else words
    said = (unit[1] or unit[2]) if unit else ""
    if plain.casefold() in (_ORIGIN, _PRICE, _BASIS):
        return {"key": plain.casefold()}
    for spec in specs.values():
        if plain.casefold() in (spec.label.casefold(), spec.key):
            return {"key": spec.key, "said": said}
    key = re.sub(r"[^a-z0-9]+", "_", plain.casefold()).strip("_")
    return {"key": key, "label": plain[:60], "unit": said} if key else {}


def _value(text: str, head: Mapping[str, str]) -> str:
    """A number in the unit that its head says; a decimal comma is a point."""
    number = re.fullmatch(r"[-+−]?\d+(?:[.,]\d+)?", text)
    if number is None:
        return text
    return f"{text.replace(',', '.')} {head.get('said', '')}".strip()
