"""The page that carries the front end, and the health check."""

import secrets
from functools import cache

import structlog
from django.conf import settings
from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse, JsonResponse

from nomothet.server.headers import content_security_policy

log = structlog.get_logger(__name__)


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


def health(request: HttpRequest) -> JsonResponse:
    """Whether the server can answer: 200 with the database reached, 503 without."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
            cursor.fetchone()
    except DatabaseError as error:
        log.error("database not reached", error=str(error))
        return JsonResponse({"status": "failing", "database": "not reached"}, status=503)
    return JsonResponse({"status": "well", "database": "reached"})


def forged(request: HttpRequest, reason: str = "") -> JsonResponse:
    """A request that does not carry this browser's token against forgery."""
    detail = "The page is too old, or another page sent this. Load it anew and try again. Nothing was changed."
    body = {"type": "about:blank", "title": "Not allowed", "status": 403, "detail": detail}
    return JsonResponse(body, status=403, content_type="application/problem+json")


def unknown(request: HttpRequest) -> JsonResponse:
    """An address under /api/ that nothing answers to."""
    body = {"type": "about:blank", "title": "Not found", "status": 404, "detail": "There is no such address."}
    return JsonResponse(body, status=404, content_type="application/problem+json")
