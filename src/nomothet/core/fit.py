"""Whether the parts of a configuration fit one another, by what is known of them on the shelf (section 20)."""

import re
from collections.abc import Mapping

from nomothet.core.notes import Note, note
from nomothet.core.parts import kind_of_place
from nomothet.core.quantities import Value

_COUNTED = re.compile(r"(\d+)\s*[x×*]\s*\S")

Attributes = Mapping[str, Value | None]


def misfits(parts: Mapping[str, Attributes]) -> list[Note]:
    """What of the parts does not go together; nothing is said where an attribute is not known.

    Parameters
    ----------
    parts : mapping of place to the attributes of what sits there
        "graphics 2" is a second card: each has to go into the case, and all of them are fed by the supplies together.

    Examples
    --------
    >>> [one.code for one in misfits({"graphics": {"length_mm": 310}, "case": {"card_mm": 240}})]
    ['card_too_long']
    """
    found = []
    cards, cases, supplies = (
        [attributes for place, attributes in parts.items() if kind_of_place(place) == kind]
        for kind in ("graphics", "case", "power_supply")
    )
    room = cases[0].get("card_mm") if cases else None
    for card in cards:
        length = card.get("length_mm")
        if _number(length) and _number(room) and float(str(length)) > float(str(room)):
            found.append(note("card_too_long", length_mm=length, room_mm=room))
    wanted = [connectors(card.get("connectors")) for card in cards]
    offered = [connectors(supply.get("connectors")) for supply in supplies]
    known = [count for count in wanted if count is not None]
    # Cards that say nothing may want more; supplies that say nothing may offer enough.
    if known and offered and None not in offered:
        there = sum(count for count in offered if count is not None)
        if sum(known) > there:
            found.append(note("too_few_connectors", wanted=sum(known), offered=there))
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
