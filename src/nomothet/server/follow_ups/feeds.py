"""Follow-ups for calendars (RFC 5545) and feed readers (RFC 4287), at an address that only its owner knows."""

import secrets
from datetime import UTC, datetime, time, timedelta

from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.feedgenerator import Atom1Feed
from icalendar import Calendar, Event, Todo

from nomothet.server.follow_ups.models import FeedAddress, FollowUp
from nomothet.server.follow_ups.queries import open_ones
from nomothet.server.people.authentication import digest_of
from nomothet.server.people.models import User
from nomothet.server.people.security import note_security

_PRODUCT = "-//Nomothet//Follow-ups//EN"
_MOST = 500


def make_address(user: User, request: HttpRequest | None) -> str:
    """A new address; one that was there before is no longer answered. Returns its secret, which is told this once."""
    secret = secrets.token_urlsafe(32)
    FeedAddress.objects.update_or_create(
        user=user, defaults={"digest": digest_of(secret), "made_at": timezone.now(), "used_at": None}
    )
    note_security("token made", by=user, request=request, name="calendar of follow-ups", scope="follow-ups")
    return secret


def drop_address(user: User, request: HttpRequest | None) -> None:
    """Answer at no address any more."""
    if FeedAddress.objects.filter(user=user).delete()[0]:
        note_security("token revoked", by=user, request=request, name="calendar of follow-ups")


def calendar(request: HttpRequest, secret: str) -> HttpResponse:
    """One event for each that has a day, and one thing to do for each."""
    _let_in(secret)
    made = Calendar()
    made.add("prodid", _PRODUCT)
    made.add("version", "2.0")
    made.add("x-wr-calname", "Follow-ups")
    host = request.get_host().partition(":")[0]
    for one in open_ones()[:_MOST]:
        for kind in (Todo, *((Event,) if one.due else ())):
            entry = kind()
            entry.add("uid", f"follow-up-{one.pk}-{kind.__name__.lower()}@{host}")
            entry.add("dtstamp", one.at)
            entry.add("summary", one.what)
            entry.add("description", _described(one))
            entry.add("url", _link(request, one))
            entry.add("sequence", one.version)
            if one.due and kind is Event:
                entry.add("dtstart", one.due)
                entry.add("dtend", one.due + timedelta(days=1))
                entry.add("transp", "TRANSPARENT")
            elif one.due:
                entry.add("due", one.due)
            made.add_component(entry)
    response = HttpResponse(made.to_ical(), content_type="text/calendar; charset=utf-8")
    response.headers["Content-Disposition"] = 'inline; filename="follow-ups.ics"'
    return _kept_nowhere(response)


def atom(request: HttpRequest, secret: str) -> HttpResponse:
    """The same for feed readers, the latest first."""
    _let_in(secret)
    base = f"{request.scheme}://{request.get_host()}"
    feed = Atom1Feed(title="Follow-ups", link=f"{base}/follow-ups", description="", language="en")
    found = open_ones().order_by("-at", "-pk")[:_MOST]
    for one in found:
        feed.add_item(
            title=one.what,
            link=_link(request, one),
            description=_described(one),
            unique_id=f"{base}/follow-ups#{one.pk}",
            author_name=one.by.display_name,
            pubdate=one.at,
            updateddate=one.here_at or one.at,
        )
    if not found:
        feed.latest_post_date = lambda: datetime.now(UTC)  # type: ignore[method-assign]
    response = HttpResponse(content_type="application/atom+xml; charset=utf-8")
    feed.write(response, "utf-8")
    return _kept_nowhere(response)


def _kept_nowhere(response: HttpResponse) -> HttpResponse:
    """What the team plans stays in no cache on the way."""
    response.headers["Cache-Control"] = "no-store"
    return response


def _let_in(secret: str) -> None:
    """Who knows a secret of somebody who may sign in; the others are told that there is nothing."""
    address = FeedAddress.objects.filter(digest=digest_of(secret), user__is_active=True).first()
    if address is None:
        raise Http404
    today = datetime.combine(timezone.localdate(), time.min, timezone.get_current_timezone())
    if address.used_at is None or address.used_at < today:
        address.used_at = timezone.now()
        address.save(update_fields=["used_at"])


def _link(request: HttpRequest, one: FollowUp) -> str:
    return f"{request.scheme}://{request.get_host()}/follow-ups#{one.pk}"


def _described(one: FollowUp) -> str:
    about = one.review.question if one.review else one.system.name if one.system else ""
    waits = f"Waits for {one.get_waits_for_display()}: {one.waits_words}" if one.waits_words else ""
    here = "What it waited for is here." if one.here_at else ""
    who = f"Seen to by {one.person.display_name}." if one.person else ""
    return "\n".join(filter(None, [about, one.why, waits, here, who]))
