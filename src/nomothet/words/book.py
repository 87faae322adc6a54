"""What happened to a machine, in words."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from nomothet.words.fingerprints import label_of, text_of_value
from nomothet.words.lists import and_list

_MOST = 4


def _session(passes: int, failed: int, configurations: Sequence[str], question: str) -> str:
    on = f" on {and_list(list(configurations)[:_MOST])}" if configurations else ""
    bad = f", {failed} of them failed" if failed else ""
    return f"{passes} {'pass' if passes == 1 else 'passes'}{on}{bad}: {question}"


def _failed(outcome: str, test: str, configuration: str, note: str) -> str:
    told = f": {note}" if note else ""
    return f"{outcome} in {test} on {configuration}{told}"


def _updated(label: str, before: str, after: str) -> str:
    return f"{label} {after}, before {before}"


def _acted(name: str, act: str, changes: Sequence[Sequence[Any]]) -> str:
    told = [_change(field, before, after) for field, before, after in changes[:_MOST]]
    more = f" and {len(changes) - _MOST} more" if len(changes) > _MOST else ""
    return f"{name} {act}" + (f": {'; '.join(told)}{more}" if told else "")


def _change(field: str, before: Any, after: Any) -> str:
    if before in (None, ""):
        return f"{label_of(field)} {text_of_value(after)}"
    if after in (None, ""):
        return f"no {label_of(field)} any more (it was {text_of_value(before)})"
    return f"{label_of(field)} {text_of_value(before)} to {text_of_value(after)}"


def _visited(configuration: str, by: str, steps: int) -> str:
    who = f" by {by}" if by else ""
    return f"changed to {configuration}{who}, {steps} {'step' if steps == 1 else 'steps'}"


SENTENCES: Mapping[str, Callable[..., str]] = {
    "book_session": _session,
    "book_failed": _failed,
    "book_updated": _updated,
    "book_acted": _acted,
    "book_visited": _visited,
}
