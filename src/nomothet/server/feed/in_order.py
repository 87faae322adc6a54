"""Remembering that all was found in order, so that it is not looked through again before something has changed."""

from datetime import datetime

from nomothet.server.feed.models import Change

Moment = tuple[int, datetime]


class InOrder:
    """As of which change this process has found everything in order.

    Every act announces what it has changed, in its own transaction, and the numbers of changes rise in the order of
    commits: as long as the last change is the one of then, there is nothing to look for. An act that has changed
    something and has yet to announce it does not ask.
    """

    def __init__(self) -> None:
        self._as_of: Moment | None = None

    def still(self, now: Moment | None) -> bool:
        return now is not None and now == self._as_of

    def found(self, now: Moment | None) -> None:
        """All was in order; `now` was read before that was looked for."""
        self._as_of = now


def last_change() -> Moment | None:
    """The last change but of the progress of passes, which alters nothing that is kept; None where there is none.

    With the time of it, since a restored or emptied table may give a number once more.
    """
    return Change.objects.exclude(kind="progress").order_by("-number").values_list("number", "at").first()
