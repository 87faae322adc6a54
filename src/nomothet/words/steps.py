"""What a tester is told to do between two configurations (method 23)."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.lists import and_list

_SAFETY: Mapping[str, str] = {
    "save": "Save what is open and shut the system down.",
    "power_off": "Switch the supply off, pull its cable, and wait until the board's lights are out.",
    "ground": "Touch bare metal of the case before touching a part.",
    "look": "See that every part sits firmly, its latches are shut and its cables are in.",
    "power_on": "Close the case, connect the cable, switch on and start.",
}


def _safety_step(step: str) -> str:
    return _SAFETY[step]


def _take_out(part: str, place: str) -> str:
    return f"Take {part} out of {place}." if place.startswith("slot") else f"Take the {place} out: {part}."


def _put_in(part: str, place: str) -> str:
    return f"Put {part} into {place}." if place.startswith("slot") else f"Put the {place} in: {part}."


def _see_in_slot(part: str, slot: str) -> str:
    return f"See that {part} sits in slot {slot}."


def _see_part(place: str, part: str) -> str:
    return f"See that the {place} is {part}."


def _set_to_default(label: str, was: str) -> str:
    return f"Set {label} back to its default (it was {was})."


def _bring_room_to(value: str) -> str:
    return f"Bring the room to {value}."


def _put_back(label: str, value: str) -> str:
    return f"Put {label} back to {value}: the exchange has reset it."


def _set_to(label: str, was: str, value: str) -> str:
    return f"Set {label} from {was} to {value}." if was else f"Set {label} to {value}."


def _restart_for(labels: Sequence[str]) -> str:
    return f"Restart, so that {and_list(labels)} {'takes' if len(labels) == 1 else 'take'} effect."


def _set_not_taken(label: str, wanted: str, seen: str) -> str:
    return f"{label} is set to {wanted} and {seen} was observed"


def with_proof(words: str, verify: str) -> str:
    """A step with how one sees that it holds, as whoever defined the setting has said it."""
    return f"{words} To be seen: {verify.rstrip('.')}." if verify else words


SENTENCES: Mapping[str, Callable[..., str]] = {
    "safety_step": _safety_step,
    "take_out": _take_out,
    "put_in": _put_in,
    "see_in_slot": _see_in_slot,
    "see_part": _see_part,
    "set_to_default": _set_to_default,
    "bring_room_to": _bring_room_to,
    "put_back": _put_back,
    "set_to": _set_to,
    "restart_for": _restart_for,
    "set_not_taken": _set_not_taken,
}
