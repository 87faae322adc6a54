"""One gate before everything else: how large a body may be and how long it may take, before any of it is kept.

It stands before Django, which would write a large body to disk before anybody is asked who sends it. What is larger
than a page needs comes only from somebody with a session, a token or a bench's token; what is larger than its address
takes is refused without being read; and who sends too slowly is let go.
"""

import asyncio
import json
import re
import time
from collections.abc import Awaitable, Callable, MutableMapping
from http.cookies import CookieError, SimpleCookie
from typing import Any
from weakref import WeakKeyDictionary

from asgiref.sync import sync_to_async
from django.conf import settings
from django.db import connection

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[..., Awaitable[None]]

_MIB = 1 << 20
# What anybody may send: signing in, a message to the team.
FROM_ANYBODY = 256 * 1024
# What a person's edits need; pasted tables are the largest of them.
_ORDINARY = 16 * _MIB
# What files need, by address.
_LIMITS: tuple[tuple[re.Pattern[str], int], ...] = (
    (re.compile(r"/api/foreign"), 257 * _MIB),
    (re.compile(r"/api/reviews/\d+/imports/[0-9a-f-]+"), 1025 * _MIB),
    (re.compile(r"/api/reviews/\d+/tests/\d+/columns/\d+/frames/[0-9a-f-]+"), 129 * _MIB),
    (re.compile(r"/api/passes/[0-9a-f-]+/pictures"), 21 * _MIB),
    (re.compile(r"/api/bench/passes/[0-9a-f-]+/series/.+"), 2 * _MIB),
)
# How many requests a process works on at once: each has a thread and a connection to the database. Those that only wait
# for something to happen see to it themselves.
AT_ONCE = 12
_WAITING = ("/api/feed", "/api/bench/next")
# Passwords take long to be hashed: a storm of sign-ins takes no place from those who are signed in.
STRANGERS_AT_ONCE = 3
_FROM_STRANGERS = ("/api/session", "/api/welcome", "/api/beginning")
# How long nothing may come, and how slowly a body may come on the whole.
SILENT_S = 20.0
_GRACE_S = 60.0
_LEAST_BYTES_S = 50_000


class Refused(Exception):
    """A body that is not taken; says why."""

    def __init__(self, status: int, title: str, detail: str) -> None:
        super().__init__(detail)
        self.status, self.title, self.detail = status, title, detail


class Gate:
    """Wraps an ASGI application (ASGI 3.0)."""

    def __init__(self, app: App) -> None:
        self._app = app
        self._by_loop: WeakKeyDictionary[asyncio.AbstractEventLoop, asyncio.Semaphore] = WeakKeyDictionary()
        self._strangers: WeakKeyDictionary[asyncio.AbstractEventLoop, asyncio.Semaphore] = WeakKeyDictionary()

    async def __call__(self, scope: MutableMapping[str, Any], receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = {name.decode("latin-1").lower(): value.decode("latin-1") for name, value in scope["headers"]}
        begun = False
        slot = _Slot(self._slots(scope["method"], scope["path"])) if scope["path"] not in _WAITING else None

        async def noted(message: Message) -> None:
            nonlocal begun
            begun = begun or message["type"] == "http.response.start"
            if begun and slot:
                slot.give_back()
            await send(message)

        try:
            # Whoever only reads has no body to send; Django would keep one all the same.
            reads = scope["method"] in ("GET", "HEAD", "OPTIONS")
            limit = FROM_ANYBODY if reads else await _limit(scope["path"], headers)
            await self._app(scope, _watched(receive, limit, slot), noted)
        except Refused as refused:
            if not begun:
                await _answer(send, refused)
        finally:
            if slot:
                slot.give_back()

    def _slots(self, method: str, path: str) -> asyncio.Semaphore:
        loop = asyncio.get_running_loop()
        if method != "GET" and path in _FROM_STRANGERS:
            return self._strangers.setdefault(loop, asyncio.Semaphore(STRANGERS_AT_ONCE))
        return self._by_loop.setdefault(loop, asyncio.Semaphore(AT_ONCE))


class _Slot:
    """One of the places for requests that are worked on; the others wait for one."""

    def __init__(self, slots: asyncio.Semaphore) -> None:
        self._slots = slots
        self._held = False

    async def take(self) -> None:
        if not self._held:
            await self._slots.acquire()
            self._held = True

    def give_back(self) -> None:
        if self._held:
            self._slots.release()
            self._held = False


async def _limit(path: str, headers: MutableMapping[str, str]) -> int:
    """How many bytes a request may have.

    Raises
    ------
    Refused
        When it says that it has more.
    """
    most = next((bytes_ for pattern, bytes_ in _LIMITS if pattern.fullmatch(path)), _ORDINARY)
    told = headers.get("content-length", "")
    said = int(told) if told.isdigit() else None
    if said is not None and said > most:
        raise Refused(413, "Too large", f"At most {_shown(most)} are taken here. Nothing was stored.")
    if said is not None and said <= FROM_ANYBODY:
        return FROM_ANYBODY
    if await sync_to_async(_is_known)(headers):
        return most
    if said is not None:
        raise Refused(401, "Not signed in", "Sign in to send so much; a script sends a token. Nothing was stored.")
    return FROM_ANYBODY


def _watched(receive: Receive, limit: int, slot: _Slot | None) -> Receive:
    """The body as it comes, broken off when it is too long or too slow; once it is in, it is worked on in its turn."""
    started, read, over = time.monotonic(), 0, False

    async def watched() -> Message:
        nonlocal read, over
        if over:
            # The body is in: from here on only the end of the connection is waited for, as long as it takes.
            return await receive()
        try:
            message = await asyncio.wait_for(receive(), SILENT_S)
        except TimeoutError:
            raise Refused(408, "Too slow", "Nothing came for a while. Nothing was stored; send it again.") from None
        if message["type"] != "http.request":
            return message
        read += len(message.get("body", b""))
        over = not message.get("more_body", False)
        if read > limit:
            raise Refused(413, "Too large", f"At most {_shown(limit)} are taken here. Nothing was stored.")
        if not over and time.monotonic() - started > _GRACE_S + read / _LEAST_BYTES_S:
            raise Refused(408, "Too slow", "It comes too slowly. Nothing was stored; send it again.")
        if over and slot:
            await slot.take()
        return message

    return watched


def _is_known(headers: MutableMapping[str, str]) -> bool:
    """Whether a request carries a session or a token that is one; what they allow is asked later."""
    from nomothet.server.people.authentication import digest_of
    from nomothet.server.people.models import Token
    from nomothet.server.people.sessions import is_alive
    from nomothet.server.systems.commands import token_hash
    from nomothet.server.systems.models import Bench

    try:
        scheme, _, secret = headers.get("authorization", "").partition(" ")
        if scheme.lower() == "bearer":
            return Token.objects.filter(digest=digest_of(secret.strip()), revoked_at=None).exists()
        if scheme.lower() == "bench":
            return Bench.objects.filter(token_hash=token_hash(secret.strip()), system__archived_at=None).exists()
        try:
            held = SimpleCookie(headers.get("cookie", "")).get(settings.SESSION_COOKIE_NAME)
        except CookieError:
            return False
        return held is not None and is_alive(held.value)
    finally:
        connection.close()


def _shown(size: int) -> str:
    return f"{size // _MIB} MiB" if size >= _MIB else f"{size // 1024} KiB"


async def _answer(send: Send, refused: Refused) -> None:
    body = {"type": "about:blank", "title": refused.title, "status": refused.status, "detail": refused.detail}
    headers = [(b"content-type", b"application/problem+json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": refused.status, "headers": headers})
    await send({"type": "http.response.body", "body": json.dumps(body).encode()})
