"""The page that carries the front end, and answers without a view of their own."""

import secrets
from functools import cache

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse

from nomothet.server.headers import content_security_policy


@cache
def _index() -> str:
    return (settings.WEB_DIST / "index.html").read_text(encoding="utf-8")


def page(request: HttpRequest) -> HttpResponse:
    """Every address that is not the API's or an asset's is a place in the front end."""
    nonce = secrets.token_urlsafe(16)
    response = HttpResponse(_index().replace("__NONCE__", nonce))
    response.headers["Content-Security-Policy"] = content_security_policy(nonce)
    response.headers["Cache-Control"] = "no-cache"
    return response


def forged(request: HttpRequest, reason: str = "") -> JsonResponse:
    """A request that does not carry this browser's token against forgery."""
    detail = "The page is too old, or another page sent this. Load it anew and try again. Nothing was changed."
    body = {"type": "about:blank", "title": "Not allowed", "status": 403, "detail": detail}
    return JsonResponse(body, status=403, content_type="application/problem+json")


def unknown(request: HttpRequest) -> JsonResponse:
    """An address under /api/ that nothing answers to."""
    body = {"type": "about:blank", "title": "Not found", "status": 404, "detail": "There is no such address."}
    return JsonResponse(body, status=404, content_type="application/problem+json")
