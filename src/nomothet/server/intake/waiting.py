"""A bench's request for work, answered when there is some: benches that wait cost next to nothing."""

from asgiref.sync import sync_to_async
from django.db import connection
from django.http import HttpRequest, HttpResponseBase
from django.views.decorators.csrf import csrf_exempt

from nomothet.server.docket.queries import systems_with_work
from nomothet.server.feed.poller import poller
from nomothet.server.intake.bench_api import NextView

_next = NextView.as_view()


@csrf_exempt
async def wait_for_work(request: HttpRequest) -> HttpResponseBase:
    """As `NextView` answers; where nothing is owed, the answer waits as long as the bench wants to, for the docket."""
    answer = await _looked(request)
    waits = getattr(answer, "waits", None)
    if waits is None or not waits.wait_s:
        return answer
    watch = poller()

    async def something_owed() -> bool:
        return waits.system in await watch.shared("systems with work", systems_with_work)

    if await watch.until(something_owed, waits.wait_s):
        return await _looked(request)
    return answer


async def _looked(request: HttpRequest) -> HttpResponseBase:
    async with poller().slots:
        return await sync_to_async(_look)(request)


def _look(request: HttpRequest) -> HttpResponseBase:
    try:
        # Read once and kept, so that it can be looked at again.
        request.body  # noqa: B018
        return _next(request)
    finally:
        # The request may go on for long, and would hold a connection all that time.
        if not connection.in_atomic_block:
            connection.close()


# By these the OpenAPI document knows what it describes.
wait_for_work.cls = NextView  # type: ignore[attr-defined]
wait_for_work.initkwargs = {}  # type: ignore[attr-defined]
