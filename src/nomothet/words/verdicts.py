"""What is said of a verdict before it goes out."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.economy import euro
from nomothet.words.lists import and_list, counted, few


def _claim(text: str, status: str) -> str:
    return f"“{text}”: {status}"


def _holes(reason: str, cells: Sequence[str]) -> str:
    return f"{counted(len(cells), 'cell')} {reason}: {few(cells, 4)}"


def _flag(cell: str, words: str) -> str:
    return f"{cell}: {words}; nobody has looked at it"


def _hypotheses(count: int) -> str:
    return f"{counted(count, 'explanation')} still open"


def _price(total: float, basis: str, on: str) -> str:
    return f"{euro(total)}, {basis}{f', {on}' if on else ''}"


def _taken_back(changed: Sequence[str]) -> str:
    return f"taken back: {and_list(changed)} changed since"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "point_claim": _claim,
    "point_holes": _holes,
    "point_flag": _flag,
    "point_one_session": lambda: "Some comparisons rest on one session each: what changes between sessions is unknown",
    "point_hypotheses": _hypotheses,
    "use_price": _price,
    "signature_withdrawn": lambda: "withdrawn",
    "signature_taken_back": _taken_back,
}
