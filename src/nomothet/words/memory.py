"""What is said of how much memory is enough (method 17)."""

from collections.abc import Callable, Mapping

from nomothet.words.numbers import figure


def _enough_memory(needed: float, reserve: float, size: float | None, at_least: bool) -> str:
    most = "at least " if at_least else ""
    enough = f"{figure(size)} GB is enough" if size else "no size on offer is enough"
    words = f"{most}{figure(needed)} GB with {100 * reserve:.0f} % in reserve: {most}{enough}"
    return words[:1].upper() + words[1:]


SENTENCES: Mapping[str, Callable[..., str]] = {"enough_memory": _enough_memory}
