"""What is said of parts that do not fit one another."""

from collections.abc import Callable, Mapping


def _card_too_long(length_mm: float, room_mm: float) -> str:
    return f"the graphics card is {length_mm:g} mm long, and the case has room for {room_mm:g} mm"


def _too_few_connectors(wanted: int, offered: int) -> str:
    return f"the graphics card takes {wanted} power connectors, and the power supply has {offered}"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "card_too_long": _card_too_long,
    "too_few_connectors": _too_few_connectors,
}
