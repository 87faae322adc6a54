"""Acts that meet in the database: who is turned away is tried again, as long as nothing of the request was written.

Of two transactions that wait for one another, the database ends one; so it does where servers write to different nodes
of a cluster, for the transaction that comes second to a row. Nothing is wrong with it, and it fits the second time.
"""

import random
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from django.db import OperationalError, connection, transaction
from django.http import HttpRequest, HttpResponseBase

P = ParamSpec("P")
T = TypeVar("T")

# What MariaDB calls a transaction that it has ended so that another can go on.
_DEADLOCK = 1213
_TRIES = 6
# Before the second try, and twice as long before each that follows: who came first has gone by then.
_PAUSE_S = 0.02
# A body up to this many bytes is kept for another try; files come in by requests that their senders repeat themselves.
_KEPT_BYTES = 1 << 20
_READS = ("SELECT", "SAVEPOINT", "RELEASE", "ROLLBACK", "SET", "SHOW", "EXPLAIN")


def has_met(error: BaseException | None) -> bool:
    """Whether a transaction was ended for the sake of another."""
    return isinstance(error, OperationalError) and bool(error.args) and error.args[0] == _DEADLOCK


def tried_again(work: Callable[P, T]) -> Callable[P, T]:
    """Work that meets others where no request is repeated, as in a worker: begun anew when one of its transactions was
    ended for the sake of another.

    It has to be such as a worker may be killed over: what is done already is passed over.
    """

    @wraps(work)
    def trying(*arguments: P.args, **named: P.kwargs) -> T:
        for turn in range(_TRIES - 1):
            try:
                return work(*arguments, **named)
            except OperationalError as error:
                if not has_met(error):
                    raise
            _pause(turn)
        return work(*arguments, **named)

    return trying


def _pause(turn: int) -> None:
    # Two that wait equally long would meet again.
    time.sleep(random.uniform(0.5, 1.0) * _PAUSE_S * 2**turn)


class TryAgain:
    """Middleware that goes around the views alone; `problem_details.handler` tells it that an act was turned away."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        if not _can_be_repeated(request):
            return self.get_response(request)
        # Read whole, it is there for every try.
        _ = request.body
        for turn in range(_TRIES - 1):
            request.turned_away = False  # type: ignore[attr-defined]
            with _watching() as written:
                response = self.get_response(request)
            if written or not request.turned_away:  # type: ignore[attr-defined]
                return response
            _pause(turn)
        return self.get_response(request)


def _can_be_repeated(request: HttpRequest) -> bool:
    length = request.META.get("CONTENT_LENGTH") or "0"
    if not length.isdecimal() or int(length) > _KEPT_BYTES:
        return False
    return int(length) == 0 or request.content_type == "application/json"


@contextmanager
def _watching() -> Iterator[list[bool]]:
    """A list that is not empty once something has been written for good."""
    written: list[bool] = []

    def watch(execute: Callable[..., Any], sql: str, params: Any, many: bool, context: dict[str, Any]) -> Any:
        done = execute(sql, params, many, context)
        if not sql.lstrip().startswith(_READS):
            if connection.in_atomic_block:
                transaction.on_commit(lambda: written.append(True))
            else:
                written.append(True)
        return done

    with connection.execute_wrapper(watch):
        yield written
