"""The live feed: server-sent events, resumable by Last-Event-ID."""

import time
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.contrib.auth import SESSION_KEY, get_user_model
from django.contrib.sessions.backends.base import SessionBase
from django.db import connection
from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse, StreamingHttpResponse

from nomothet.server.feed.poller import poller
from nomothet.server.feed.queries import last_number

# A feed of somebody who was signed out or disabled ends within so long.
LOOK_AGAIN_S = 10.0


def _start(request: HttpRequest) -> int | None:
    """The number to go on from; None for somebody who is not signed in."""
    try:
        if not request.user.is_authenticated:
            return None
        last = request.headers.get("Last-Event-ID") or request.GET.get("after", "")
        return int(last) if last.isdigit() else last_number()
    finally:
        connection.close()


def _may_follow(sessions: type[SessionBase], key: str | None) -> bool:
    """Whether a session goes on, and whose it is may still sign in."""
    try:
        user = sessions(key).get(SESSION_KEY)
        return user is not None and get_user_model().objects.filter(pk=user, is_active=True).exists()
    finally:
        connection.close()


async def _stream(number: int, sessions: type[SessionBase], key: str | None) -> AsyncIterator[str]:
    yield f"retry: 1000\nid: {number}\nevent: ready\ndata: {{}}\n\n"
    looked = time.monotonic()
    async for events in poller().events(number):
        if time.monotonic() - looked > LOOK_AGAIN_S:
            if not await sync_to_async(_may_follow)(sessions, key):
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
    number = await sync_to_async(_start)(request)
    if number is None:
        body = {"type": "about:blank", "title": "Not signed in", "status": 401, "detail": "Sign in to follow changes."}
        return JsonResponse(body, status=401, content_type="application/problem+json")
    stream = _stream(number, type(request.session), request.session.session_key)
    response = StreamingHttpResponse(stream, content_type="text/event-stream")
    response.headers["Cache-Control"] = "no-store"
    response.headers["X-Accel-Buffering"] = "no"
    return response
