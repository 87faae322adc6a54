"""The live feed: server-sent events, resumable by Last-Event-ID."""

import time
from collections.abc import AsyncIterator, Awaitable, Callable

from asgiref.sync import sync_to_async
from django.contrib.sessions.backends.base import SessionBase
from django.db import connection
from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse, StreamingHttpResponse

from nomothet.server.feed.poller import poller
from nomothet.server.feed.queries import last_number

# A feed of somebody who was signed out or disabled ends within so long, and a little: what was found for another one
# who follows may be this old.
LOOK_AGAIN_S = 10.0
_FOUND_KEPT_S = 2.0


def _start(request: HttpRequest) -> int | None:
    """The number to go on from; None for somebody who is not signed in."""
    try:
        if not request.user.is_authenticated:
            return None
        last = request.headers.get("Last-Event-ID") or request.GET.get("after", "")
        return int(last) if last.isdigit() else last_number()
    finally:
        connection.close()


async def _may_follow(store: type[SessionBase], key: str | None) -> bool:
    """Whether a session goes on, and whose it is may still sign in; asked once for all who follow."""
    kept_s = min(_FOUND_KEPT_S, LOOK_AGAIN_S / 2)
    alive: frozenset[str] = await poller().recently("sessions", store.alive, kept_s)  # type: ignore[attr-defined]
    return key in alive


async def _stream(number: int, may_follow: Callable[[], Awaitable[bool]]) -> AsyncIterator[str]:
    yield f"retry: 1000\nid: {number}\nevent: ready\ndata: {{}}\n\n"
    looked = time.monotonic()
    async for events in poller().events(number):
        if time.monotonic() - looked > LOOK_AGAIN_S:
            if not await may_follow():
                return
            looked = time.monotonic()
        for _, text in events:
            yield text
        if not events:
            yield ": still here\n\n"


async def feed(request: HttpRequest) -> HttpResponseBase:
    """All changes from now on, or after Last-Event-ID (or `?after=`)."""
    if request.method != "GET":
        return HttpResponse(status=405)
    async with poller().slots:
        number = await sync_to_async(_start)(request)
    if number is None:
        body = {"type": "about:blank", "title": "Not signed in", "status": 401, "detail": "Sign in to follow changes."}
        return JsonResponse(body, status=401, content_type="application/problem+json")
    store, key = type(request.session), request.session.session_key
    stream = _stream(number, lambda: _may_follow(store, key))
    response = StreamingHttpResponse(stream, content_type="text/event-stream")
    response.headers["Cache-Control"] = "no-store"
    response.headers["X-Accel-Buffering"] = "no"
    return response
