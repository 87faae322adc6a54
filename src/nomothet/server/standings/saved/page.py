"""The public page of a standing."""

import secrets
from typing import Any

from django.core.cache import cache
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.template.loader import render_to_string

from nomothet.server.headers import content_security_policy
from nomothet.server.problems import Problem
from nomothet.server.standings.models import SavedStanding
from nomothet.server.standings.saved.commands import page_key
from nomothet.server.standings.saved.content import content_of

# One that follows the results is worked out once a minute, however many read it.
_KEPT_S = 60


def page(request: HttpRequest, slug: str) -> HttpResponse:
    """The page; one that is withdrawn says why, and nothing else."""
    one = get_object_or_404(SavedStanding.objects.select_related("published_by"), slug=slug)
    nonce = secrets.token_urlsafe(16)
    withdrawn = one.withdrawn_at is not None
    content = {} if withdrawn else _content(one)
    text = render_to_string("standings/page.html", {"standing": one, "content": content, "nonce": nonce})
    response = HttpResponse(text, status=410 if withdrawn else 200)
    response.headers["Content-Security-Policy"] = content_security_policy(nonce)
    response.headers["Cache-Control"] = "no-cache" if withdrawn else f"public, max-age={_KEPT_S}"
    return response


def _content(one: SavedStanding) -> dict[str, Any]:
    """As it was published, or as it is; where what it showed is gone, as it was."""
    kept: dict[str, Any] = one.content or {}
    if one.frozen:
        return kept
    key = page_key(one.slug or "")
    now: dict[str, Any] | None = cache.get(key)
    if now is None:
        try:
            now = content_of(one.query)
        except Problem:
            now = kept
        cache.set(key, now, _KEPT_S)
    return now
