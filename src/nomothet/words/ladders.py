"""What is said of a ladder: the most demanding settings that still meet the target (method 8)."""

from collections.abc import Callable, Mapping, Sequence

from nomothet.words.lists import and_list


def _found(best: str, above: Sequence[str] = (), against: Sequence[str] = ()) -> str:
    said = f"{best} meets the target"
    if above:
        said += f"; {and_list(above)} {'was' if len(above) == 1 else 'were'} not tried and may do as well"
    if against:
        said += f"; {and_list(against)} asked less and missed it, which contradicts this"
    return said


def _none(lowest: str) -> str:
    return f"no rung meets the target, not even {lowest}"


def _open(next_rung: str, tried: Sequence[str] = (), waiting: bool = False) -> str:
    missed = f"{and_list(tried)} missed it; " if tried else ""
    return f"{missed}{next_rung} {'is on the docket' if waiting else 'comes next'}"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "ladder_found": _found,
    "ladder_none": _none,
    "ladder_open": _open,
    "ladder_no_target": lambda: "no target is said for its tests, so that no rung can be judged",
    "ladder_blocked": lambda why: f"cannot be built: {why}",
}
