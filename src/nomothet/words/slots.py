"""What is said of modules in the slots of a board (method 15), with what would mend it."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.core.memory import Mistake
from nomothet.words.lists import and_list


def slot_words(mistake: Mistake) -> str:
    """What is wrong, as one clause."""
    return SENTENCES[mistake.found.code](**mistake.found.values)


def slot_remedy(mistake: Mistake) -> str:
    """What would mend it."""
    values = mistake.found.values
    if mistake.found.code == "wrong_slots":
        return f"Put them into {and_list(values['wanted'])}."
    if mistake.found.code == "over_speed":
        return f"Set {values['most_mts']:g} MT/s or use fewer modules."
    return _REMEDIES[mistake.found.code]


def _wrong_slots(slots: Sequence[str], used: int, reached: int, wanted: Sequence[str]) -> str:
    channels = "1 channel" if used == 1 else f"{used} channels"
    cost = f"only {channels} of {reached} in use" if used < reached else "the board fills other slots first"
    return f"modules in {and_list(slots)}: {cost}"


def _uneven(capacity_gb: Sequence[tuple[str, float]]) -> str:
    told = ", ".join(f"{channel} {gb:g} GB" for channel, gb in capacity_gb)
    return f"channels hold unlike capacities ({told}): part of the memory has fewer channels"


def _mixed_kits(kits: Sequence[str]) -> str:
    return f"modules of several kits ({and_list(kits)}) run at what the slowest takes, if at all"


def _over_capacity(gb: float, most_gb: float) -> str:
    return f"{gb:g} GB are over the {most_gb:g} GB that the board takes"


def _over_capacity_of_slot(most_gb: float) -> str:
    return f"a module of over {most_gb:g} GB is more than a slot takes"


def _over_speed(mts: float, most_mts: float, modules: int) -> str:
    each = f"{modules} module{'s' if modules > 1 else ''} on a channel"
    return f"{mts:g} MT/s are over the {most_mts:g} MT/s that the board runs with {each}"


def _over_rating(mts: float, rated_mts: float) -> str:
    return f"{mts:g} MT/s are set on a kit that is rated for {rated_mts:g} MT/s"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "wrong_slots": _wrong_slots,
    "uneven_channels": _uneven,
    "mixed_kits": _mixed_kits,
    "mixed_correction": lambda: "modules with and without error correction together do not start on most boards",
    "over_capacity": _over_capacity,
    "over_capacity_of_slot": _over_capacity_of_slot,
    "refused_module": lambda: "the board does not take modules with error correction",
    "over_speed": _over_speed,
    "over_rating": _over_rating,
}

_REMEDIES: Mapping[str, str] = {
    "uneven_channels": "Give every channel the same capacity.",
    "mixed_kits": "Use the modules of one kit.",
    "mixed_correction": "Use modules of one sort.",
    "over_capacity": "Use a smaller kit or fewer modules.",
    "over_capacity_of_slot": "Use smaller modules.",
    "refused_module": "Use modules without error correction.",
    "over_rating": "Set what the kit is rated for, or say why not.",
}
