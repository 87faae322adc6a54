"""Names as the database compares them: without regard to case, accents and spaces at the end."""

import unicodedata
from collections.abc import Iterable


def as_compared(name: str) -> str:
    """What two names have in common that are the same to the database.

    >>> as_compared("Fan é ") == as_compared("fan E")
    True
    """
    parts = unicodedata.normalize("NFKD", name.casefold())
    return "".join(one for one in parts if not unicodedata.combining(one)).strip()


def told_apart(names: Iterable[str], longest: int) -> list[str]:
    """The names, each made different from those before it by a number, and no longer than wanted.

    >>> told_apart(["Fan", "fan", "pump", "FAN"], 80)
    ['Fan', 'fan (2)', 'pump', 'FAN (3)']
    """
    made: list[str] = []
    taken: set[str] = set()
    for name in names:
        name = name.rstrip()
        given, number = name[:longest], 1
        while as_compared(given) in taken:
            number += 1
            ending = f" ({number})"
            given = name[: longest - len(ending)] + ending
        taken.add(as_compared(given))
        made.append(given)
    return made
