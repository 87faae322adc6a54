"""What "draw another" changes about a kind of finding."""

from collections.abc import Collection, Mapping
from dataclasses import asdict, dataclass
from typing import Any

import msgspec

from nomothet.server.problems import unusable
from nomothet.server.systems.prices import BASES

ROLES = ("averages", "lows")


@dataclass(frozen=True)
class Choice:
    """What a finding is about; nothing chosen is what the program proposes.

    Attributes
    ----------
    role : str
        "averages" or "lows".
    without : tuple of int
        Tests that are left out.
    baseline : int or None
        The configuration that the others are held against.
    factors : tuple of str
        Of a grid, the factors that it is of.
    columns : tuple of int
        Of a chain, its configurations in order.
    basis : str
        By which prices.
    differing : bool
        Whether only parts that differ are priced.
    idle_off : bool
        Whether idle baselines are taken off.
    """

    role: str = ""
    without: tuple[int, ...] = ()
    baseline: int | None = None
    factors: tuple[str, ...] = ()
    columns: tuple[int, ...] = ()
    basis: str = ""
    differing: bool = False
    idle_off: bool = False

    @property
    def stored(self) -> dict[str, Any]:
        """What was chosen, without what was not."""
        return {key: value for key, value in asdict(self).items() if value not in ("", (), None, False)}


PROPOSED = Choice()


def read_choice(
    given: Mapping[str, Any], *, columns: Collection[int], tests: Collection[int], factors: Collection[str]
) -> Choice:
    """A choice as it came from a browser.

    Raises
    ------
    Problem
        422, naming what was wrong.
    """
    try:
        choice = msgspec.convert(dict(given), Choice)
    except msgspec.ValidationError as error:
        raise unusable(f"What is to be drawn cannot be read: {error}.") from None
    if choice.role not in ("", *ROLES):
        raise unusable(f"A finding is drawn by {' or '.join(ROLES)}, not by {choice.role!r}.", field="role")
    if choice.basis not in ("", *BASES):
        raise unusable(f"Prices are {', '.join(BASES)}, not {choice.basis!r}.", field="basis")
    for field, wanted, known in (
        ("without", choice.without, tests),
        ("columns", choice.columns, columns),
        ("baseline", () if choice.baseline is None else (choice.baseline,), columns),
        ("factors", choice.factors, factors),
    ):
        if len(set(wanted)) < len(wanted):
            raise unusable("What is to be drawn names something twice.", field=field)
        if not set(wanted) <= set(known):
            raise unusable("What is to be drawn names something that this review does not have.", field=field)
    if tests and set(choice.without) >= set(tests):
        raise unusable("Every test is left out; keep one at least.", field="without")
    return choice
