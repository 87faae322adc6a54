"""New records and corrections as an Atom feed (RFC 4287)."""

from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.feedgenerator import Atom1Feed

from nomothet.server.records.earlier import readable
from nomothet.server.records.models import Record
from nomothet.server.records.page.render import description_of

_MOST = 50


@dataclass(frozen=True)
class _Line:
    """What a feed tells of a record's content."""

    question: str
    description: str


def all_records(request: HttpRequest) -> HttpResponse:
    """The latest editions of all reviews."""
    found = Record.objects.defer("content").order_by("-published_at", "-pk")[:_MOST]
    return _feed(request, list(found), "Records", "/records/feed.atom")


def of_review(request: HttpRequest, slug: str) -> HttpResponse:
    """The editions of one review."""
    record = get_object_or_404(Record.objects.defer("content"), slug=slug)
    found = Record.objects.defer("content").filter(review=record.review_id)[:_MOST]
    question = _line(record.pk, record.published_at).question
    return _feed(request, list(found), question, f"/records/{slug}/feed.atom")


def _feed(request: HttpRequest, records: list[Record], title: str, path: str) -> HttpResponse:
    base = f"{request.scheme}://{request.get_host()}"
    feed = Atom1Feed(title=title, link=f"{base}/", description="", feed_url=f"{base}{path}", language="en")
    for one in records:
        line = _line(one.pk, one.published_at)
        withdrawn = one.withdrawn_at is not None
        correction = f"Edition {one.edition}: {one.change_note}. " if one.edition > 1 and one.change_note else ""
        told = f"Withdrawn: {one.withdrawn_why}" if withdrawn else correction + line.description
        feed.add_item(
            title=line.question,
            link=f"{base}/records/{one.slug}",
            description=told,
            unique_id=f"{base}/records/{one.slug}",
            author_name=one.publisher,
            pubdate=one.published_at,
            updateddate=one.withdrawn_at or one.published_at,
        )
    response = HttpResponse(content_type="application/atom+xml; charset=utf-8")
    if not records:
        # A feed without entries has its own time of updating all the same (RFC 4287, section 4.1.1).
        feed.latest_post_date = lambda: datetime.now(UTC)  # type: ignore[method-assign]
    feed.write(response, "utf-8")
    return response


# What a record holds never changes, and to read all of it for a line takes long. Its time belongs to the key: a table
# that was emptied begins to count anew.
@lru_cache(maxsize=1000)
def _line(pk: int, published_at: datetime) -> _Line:
    content = readable(Record.objects.values_list("content", flat=True).get(pk=pk, published_at=published_at))
    return _Line(content["review"]["question"], description_of(content))
