"""One poller of the feed for each process, however many people watch and benches wait."""

import asyncio
import contextlib
import logging
import time
from collections import deque
from collections.abc import AsyncIterator, Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar, cast
from weakref import WeakKeyDictionary

from django.conf import settings
from django.db import DatabaseError, connection

from nomothet.server.feed.neighbours import Bell, ring
from nomothet.server.feed.queries import events_after, last_number

log = logging.getLogger(__name__)

Event = tuple[int, str]
Found = TypeVar("Found")

# It looks so often for what others announce, and where they ring, only in case that a ring was lost.
POLL_S = 0.2
RUNG_POLL_S = 2.0
# It looks no more often than this, whatever this process itself announces.
LEAST_S = 0.03
BEAT_S = 10.0
_AFTER_FAILURE_S = 1.0
_KEPT = 2000
_AT_ONCE = 4


class Poller:
    """Reads new changes as long as somebody listens, and hands them to all listeners.

    It reads in a thread of its own, which keeps one connection to the database. A listener that is further behind than
    what is kept reads from the database until it has caught up.
    """

    def __init__(self, bell: Bell | None = None) -> None:
        self._bell = bell
        self._rung = False
        self._recent: deque[Event] = deque(maxlen=_KEPT)
        # Everything after `_from` up to `_upto` is in `_recent`; None before the first look.
        self._from: int | None = None
        self._upto = 0
        self._listeners = 0
        self._task: asyncio.Task[None] | None = None
        self._news = asyncio.Event()
        # Set when this process has announced something: nothing need be waited for then.
        self._announced = asyncio.Event()
        self._reader = ThreadPoolExecutor(1, "feed")
        # Held by those who begin to listen while they need a connection of their own.
        self.slots = asyncio.Semaphore(_AT_ONCE)
        # What is asked of the database for all listeners at once: when, and after which change.
        self._shared: dict[str, tuple[float, int, asyncio.Future[Any]]] = {}

    async def events(self, number: int) -> AsyncIterator[list[Event]]:
        """Changes after a number as they come; an empty list from time to time says that the line is up."""
        self._begin()
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
            self._end()

    async def until(self, holds: Callable[[], Awaitable[bool]], timeout_s: float) -> bool:
        """Wait until something holds, which is asked again after each change; False when the time is over first."""
        self._begin()
        deadline = time.monotonic() + timeout_s
        try:
            while True:
                news = self._news
                if await holds():
                    return True
                try:
                    await asyncio.wait_for(news.wait(), max(0.0, deadline - time.monotonic()))
                except TimeoutError:
                    return False
        finally:
            self._end()

    async def shared(self, name: str, read: Callable[[], Found]) -> Found:
        """What a query finds, read once for all who ask between two changes."""
        return await self._once(name, read, lambda _at, upto: upto == self._upto)

    async def recently(self, name: str, read: Callable[[], Found], kept_s: float) -> Found:
        """What a query has found within so many seconds, read once for all who ask."""
        return await self._once(name, read, lambda at, _upto: time.monotonic() - at < kept_s)

    async def _once(self, name: str, read: Callable[[], Found], still: Callable[[float, int], bool]) -> Found:
        at, upto, found = self._shared.get(name, (0.0, -1, None))
        if found is None or not still(at, upto) or (found.done() and found.exception()):
            found = asyncio.ensure_future(self._read(read))
            self._shared[name] = (time.monotonic(), self._upto, found)
        return cast(Found, await asyncio.shield(found))

    def _begin(self) -> None:
        self._listeners += 1
        if self._task is None:
            self._rung = self._bell is not None and self._bell.hang(self.wake)
            self._task = asyncio.create_task(self._poll())
            _polling[self] = asyncio.get_running_loop()

    def _end(self) -> None:
        self._listeners -= 1
        if not self._listeners and self._task is not None:
            self._task.cancel()
            self._task = None
            if self._bell is not None:
                self._bell.take_down()
            _polling.pop(self, None)
            self._from = None
            self._recent.clear()
            self._shared.clear()

    async def _after(self, number: int) -> list[Event]:
        if self._from is None or number < self._from:
            return await self._read(lambda: _read(number))
        return [event for event in self._recent if event[0] > number]

    async def _poll(self) -> None:
        while True:
            try:
                await self._look()
            except DatabaseError as error:
                log.warning("the feed cannot be read: %s", error)
                await asyncio.sleep(_AFTER_FAILURE_S)
            await asyncio.sleep(LEAST_S)
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(self._announced.wait(), (RUNG_POLL_S if self._rung else POLL_S) - LEAST_S)
            self._announced.clear()

    def wake(self) -> None:
        """Look soon, as there is something new; called in the thread of its event loop."""
        self._announced.set()

    async def _look(self) -> None:
        last = await self._read(lambda: _last())
        if self._from is None:
            self._upto = self._from = last
            self._tell()
        if last <= self._upto:
            return
        fresh = await self._read(lambda: _read(self._upto))
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

    async def _read(self, read: Callable[[], Found]) -> Found:
        return await asyncio.get_running_loop().run_in_executor(self._reader, _on_a_working_connection, read)


_polling: dict[Poller, asyncio.AbstractEventLoop] = {}
_pollers: "WeakKeyDictionary[asyncio.AbstractEventLoop, Poller]" = WeakKeyDictionary()


def poller() -> Poller:
    """The poller of the running event loop; a process has one loop."""
    loop = asyncio.get_running_loop()
    if loop not in _pollers:
        _pollers[loop] = Poller(Bell(settings.BELLS) if settings.BELLS else None)
    return _pollers[loop]


def wake() -> None:
    """Have what this process has announced told at once, here and by the other processes of the installation."""
    if settings.BELLS:
        ring(settings.BELLS)
    for one, loop in list(_polling.items()):
        # A loop that has ended meanwhile has nobody to tell.
        with contextlib.suppress(RuntimeError):
            loop.call_soon_threadsafe(one.wake)


def _on_a_working_connection(read: Callable[[], Found]) -> Found:
    """Read with the thread's own connection; a broken one is made anew the next time."""
    try:
        return read()
    except DatabaseError:
        connection.close()
        raise


def _read(number: int) -> list[Event]:
    return events_after(number)


def _last() -> int:
    return last_number()
