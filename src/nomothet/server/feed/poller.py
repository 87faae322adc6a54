"""One poller of the feed for each process, however many people watch."""

import asyncio
import logging
from collections import deque
from collections.abc import AsyncIterator
from weakref import WeakKeyDictionary

from asgiref.sync import sync_to_async
from django.db import DatabaseError, connection

from nomothet.server.feed.queries import events_after, last_number

log = logging.getLogger(__name__)

Event = tuple[int, str]

POLL_S = 0.1
BEAT_S = 10.0
_AFTER_FAILURE_S = 1.0
_KEPT = 2000


class Poller:
    """Reads new changes as long as somebody listens, and hands them to all listeners.

    A listener that is further behind than what is kept reads from the database until it has caught up.
    """

    def __init__(self) -> None:
        self._recent: deque[Event] = deque(maxlen=_KEPT)
        # Everything after `_from` up to `_upto` is in `_recent`; None before the first look.
        self._from: int | None = None
        self._upto = 0
        self._listeners = 0
        self._task: asyncio.Task[None] | None = None
        self._news = asyncio.Event()

    async def events(self, number: int) -> AsyncIterator[list[Event]]:
        """Changes after a number as they come; an empty list from time to time says that the line is up."""
        self._listeners += 1
        if self._task is None:
            self._task = asyncio.create_task(self._poll())
        try:
            while True:
                news = self._news
                fresh = await self._after(number)
                if fresh:
                    number = fresh[-1][0]
                    yield fresh
                    continue
                try:
                    await asyncio.wait_for(news.wait(), BEAT_S)
                except TimeoutError:
                    yield []
        finally:
            self._listeners -= 1
            if not self._listeners and self._task is not None:
                self._task.cancel()
                self._task = None
                self._from = None
                self._recent.clear()

    async def _after(self, number: int) -> list[Event]:
        if self._from is None or number < self._from:
            return await sync_to_async(_read)(number)
        return [event for event in self._recent if event[0] > number]

    async def _poll(self) -> None:
        while True:
            try:
                await self._look()
            except DatabaseError as error:
                log.warning("the feed cannot be read: %s", error)
                await asyncio.sleep(_AFTER_FAILURE_S)
            await asyncio.sleep(POLL_S)

    async def _look(self) -> None:
        if self._from is None:
            self._upto = self._from = await sync_to_async(_last)()
            self._tell()
        fresh = await sync_to_async(_read)(self._upto)
        if not fresh:
            return
        dropped = len(self._recent) + len(fresh) - _KEPT
        if dropped > 0:
            everything = [*self._recent, *fresh]
            self._from = everything[dropped - 1][0]
        self._recent.extend(fresh)
        self._upto = fresh[-1][0]
        self._tell()

    def _tell(self) -> None:
        news, self._news = self._news, asyncio.Event()
        news.set()


_pollers: "WeakKeyDictionary[asyncio.AbstractEventLoop, Poller]" = WeakKeyDictionary()


def poller() -> Poller:
    """The poller of the running event loop; a process has one loop."""
    return _pollers.setdefault(asyncio.get_running_loop(), Poller())


def _read(number: int) -> list[Event]:
    try:
        return events_after(number)
    finally:
        # A stream lives for hours and would otherwise hold a database connection all that time.
        connection.close()


def _last() -> int:
    try:
        return last_number()
    finally:
        connection.close()
