"""What is said of two pictures beside each other."""

from collections.abc import Callable, Mapping

_VERDICTS = {
    "equal": "look equal",
    "not equal": "do not look equal",
    "cannot tell": "cannot be told apart or called equal by these pictures",
}


def _compared(verdict: str, a: str, b: str, test: str, words: str) -> str:
    said = f"{test}: {a} and {b} {_VERDICTS[verdict]}"
    return f"{said}: {words.rstrip('.')}." if words else f"{said}."


SENTENCES: Mapping[str, Callable[..., str]] = {"pictures_compared": _compared}
