"""Section 3 of the method: which round and which session a pass was run in, told from when it was run."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

# Without a pass for so long, the next one begins another session.
SESSION_GAP_S = 6 * 3600.0


@dataclass(frozen=True)
class Ran:
    """A pass as it was run.

    Attributes
    ----------
    configuration : hashable
        What the machine was then.
    at_s : float
        When it began, in seconds on a clock that all passes of the machine share.
    until_s : float
        When it ended.
    in_rounds : bool
        Whether the docket's order made rounds of it.
    """

    configuration: Hashable
    at_s: float
    until_s: float
    in_rounds: bool = False


def rounds_of(passes: Sequence[Ran]) -> list[int | None]:
    """The round of each pass of a test; one that no round was made of has none.

    A round is a stretch in which no configuration comes twice.

    Parameters
    ----------
    passes : sequence of Ran
        In any order.

    Examples
    --------
    >>> ran = [Ran(name, at, at + 1, True) for at, name in enumerate("abcba")]
    >>> rounds_of(ran)
    [0, 0, 0, 1, 1]
    """
    found: list[int | None] = [None] * len(passes)
    current, seen = 0, set[Hashable]()
    for at in sorted(range(len(passes)), key=lambda one: passes[one].at_s):
        if not passes[at].in_rounds:
            continue
        if passes[at].configuration in seen:
            current, seen = current + 1, set()
        seen.add(passes[at].configuration)
        found[at] = current
    return found


def same_session(before: Ran, one: Ran, breaks_s: Sequence[float] = ()) -> bool:
    """Whether a pass is of the session of the one that its machine ran before it.

    A session is an unbroken stretch without a change of configuration, a restart, or six hours between.

    Parameters
    ----------
    breaks_s : sequence of float
        When the machine was changed or restarted.

    Examples
    --------
    >>> first, second = Ran("a", 0, 60), Ran("a", 100, 160)
    >>> same_session(first, second), same_session(first, second, [80.0]), same_session(first, Ran("b", 100, 160))
    (True, False, False)
    >>> same_session(first, Ran("a", 60 + 6 * 3600, 30_000))
    False
    """
    if before.configuration != one.configuration or one.at_s - before.until_s >= SESSION_GAP_S:
        return False
    return not any(before.at_s < moment <= one.at_s for moment in breaks_s)
