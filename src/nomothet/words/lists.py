"""Lists in running text."""

from collections.abc import Sequence


def and_list(words: Sequence[str]) -> str:
    """Words as a list in a sentence.

    >>> and_list(["walk", "flight", "lap"])
    'walk, flight and lap'
    """
    return " and ".join([", ".join(words[:-1]), words[-1]]) if len(words) > 1 else "".join(words)
