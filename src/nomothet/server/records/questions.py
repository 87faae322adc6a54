"""What stands under a record from its readers; another app fills it in."""

from collections.abc import Callable
from typing import Any

from nomothet.server.records.models import Record

# What the page shows of readers' messages, and the fields of its form; see readers/listening.py.
_PROVIDERS: list[Callable[[Record], dict[str, Any]]] = []


def provide(provider: Callable[[Record], dict[str, Any]]) -> None:
    """Name who knows what readers have sent."""
    _PROVIDERS[:] = [provider]


def questions_under(record: Record) -> dict[str, Any]:
    """What is shown under a record; empty where nobody provides it."""
    return _PROVIDERS[0](record) if _PROVIDERS else {}
