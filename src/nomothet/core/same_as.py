"""Section 20 of the method: configurations that are the same as another, but for some changes."""

from collections.abc import Hashable, Mapping
from typing import TypeVar

from nomothet.core.errors import BadPlan

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


def resolve(key: K, base_of: Mapping[K, K | None], changes_of: Mapping[K, Mapping[str, V | None]]) -> dict[str, V]:
    """What holds for a configuration: its base's state, overlaid with its own changes.

    Parameters
    ----------
    base_of : mapping
        The configuration that each is the same as; None for one that stands for itself.
    changes_of : mapping
        The changes of each; a value of None takes the entry away.

    Raises
    ------
    BadPlan
        When the bases run in a circle.

    Examples
    --------
    >>> resolve("b", {"a": None, "b": "a"}, {"a": {"x": 1, "y": 2}, "b": {"x": 3, "y": None}})
    {'x': 3}
    """
    state: dict[str, V] = {}
    for one in reversed(lineage(key, base_of)):
        for name, value in changes_of.get(one, {}).items():
            if value is None:
                state.pop(name, None)
            else:
                state[name] = value
    return state


def lineage(key: K, base_of: Mapping[K, K | None]) -> list[K]:
    """A configuration, its base, the base of that, and so on.

    Raises
    ------
    BadPlan
        When the bases run in a circle.
    """
    line: list[K] = []
    at: K | None = key
    while at is not None:
        if at in line:
            raise BadPlan("Configurations are the same as each other in a circle; choose another base.")
        line.append(at)
        at = base_of.get(at)
    return line


def changes_from(base: Mapping[str, V], wanted: Mapping[str, V]) -> dict[str, V | None]:
    """The smallest changes that make a wanted state out of a base's.

    Examples
    --------
    >>> changes_from({"x": 1, "y": 2}, {"x": 1, "z": 3})
    {'y': None, 'z': 3}
    """
    gone: dict[str, V | None] = {name: None for name in base if name not in wanted}
    return gone | {name: value for name, value in wanted.items() if name not in base or base[name] != value}
