"""The live feed: server-sent events, resumable by Last-Event-ID."""

import asyncio
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.db import connection
from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse, StreamingHttpResponse

from nomothet.server.feed.queries import events_after, last_number

_POLL_S = 0.1
_BEAT_S = 10.0


def _read(number: int) -> list[tuple[int, str]]:
    try:
        return events_after(number)
    finally:
        # A stream lives for hours and would otherwise hold a database connection all that time.
        connection.close()


def _start(request: HttpRequest) -> int | None:
    """The number to go on from; None for somebody who is not signed in."""
    try:
        if not request.user.is_authenticated:
            return None
        last = request.headers.get("Last-Event-ID") or request.GET.get("after", "")
        return int(last) if last.isdigit() else last_number()
    finally:
        connection.close()


async def _stream(number: int) -> AsyncIterator[str]:
    yield f"retry: 1000\nid: {number}\nevent: ready\ndata: {{}}\n\n"
    quiet = 0.0
    while True:
        events = await sync_to_async(_read)(number)
        for seen, text in events:
            yield text
            number = seen
        quiet = 0.0 if events else quiet + _POLL_S
        if quiet >= _BEAT_S:
            quiet = 0.0
            yield ": still here\n\n"
        await asyncio.sleep(_POLL_S)


async def feed(request: HttpRequest) -> HttpResponseBase:
    """All changes from now on, or after Last-Event-ID (or `?after=`)."""
    if request.method != "GET":
        return HttpResponse(status=405)
    number = await sync_to_async(_start)(request)
    if number is None:
        body = {"type": "about:blank", "title": "Not signed in", "status": 401, "detail": "Sign in to follow changes."}
        return JsonResponse(body, status=401, content_type="application/problem+json")
    response = StreamingHttpResponse(_stream(number), content_type="text/event-stream")
    response.headers["Cache-Control"] = "no-store"
    response.headers["X-Accel-Buffering"] = "no"
    return response
