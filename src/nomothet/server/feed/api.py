"""The live feed: server-sent events, resumable by Last-Event-ID."""

from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.db import connection
from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse, StreamingHttpResponse

from nomothet.server.feed.poller import poller
from nomothet.server.feed.queries import last_number


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
    async for events in poller().events(number):
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
    response = StreamingHttpResponse(_stream(number), content_type="text/event-stream")
    response.headers["Cache-Control"] = "no-store"
    response.headers["X-Accel-Buffering"] = "no"
    return response
