"""Whether the parts of a configuration fit one another, by what is known of them on the shelf (section 20)."""

import re
from collections.abc import Mapping

from nomothet.core.notes import Note, note
from nomothet.core.quantities import Value

_COUNTED = re.compile(r"(\d+)\s*[x×*]\s*\S")

Attributes = Mapping[str, Value | None]


def misfits(parts: Mapping[str, Attributes]) -> list[Note]:
    """What of the parts does not go together; nothing is said where an attribute is not known.

    Parameters
    ----------
    parts : mapping of kind of part to its attributes

    Examples
    --------
    >>> [one.code for one in misfits({"graphics": {"length_mm": 310}, "case": {"card_mm": 240}})]
    ['card_too_long']
    """
    found = []
    card, case, supply = (parts.get(kind, {}) for kind in ("graphics", "case", "power_supply"))
    length, room = card.get("length_mm"), case.get("card_mm")
    if _number(length) and _number(room) and float(str(length)) > float(str(room)):
        found.append(note("card_too_long", length_mm=length, room_mm=room))
    wanted, offered = connectors(card.get("connectors")), connectors(supply.get("connectors"))
    if wanted is not None and offered is not None and wanted > offered:
        found.append(note("too_few_connectors", wanted=wanted, offered=offered))
    return found


def connectors(text: Value | None) -> int | None:
    """How many connectors a text tells of: "2 × 8-pin", "8-pin, 6-pin"; None where it tells of none.

    >>> connectors("2 × 8-pin, 1 x 6-pin"), connectors("8-pin and 6-pin"), connectors("none"), connectors("")
    (3, 2, 0, None)
    """
    said = str(text or "").strip().lower()
    if not said:
        return None
    if said in ("none", "no", "0"):
        return 0
    pieces = [piece for piece in re.split(r",|;|\+|\band\b", said) if piece.strip()]
    counted = [_COUNTED.match(piece.strip()) for piece in pieces]
    return sum(int(one[1]) if one else 1 for one in counted)


def _number(value: Value | None) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)
