"""Security headers that Django's own middleware does not set."""

from collections.abc import Awaitable, Callable
from typing import Any

from asgiref.sync import iscoroutinefunction, markcoroutinefunction
from django.http import HttpRequest, HttpResponseBase

_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'{nonce}; font-src 'self'; img-src 'self' data: blob:; "
    "connect-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)


def content_security_policy(nonce: str | None = None) -> str:
    """The policy (Content Security Policy Level 3); a nonce admits the style elements that dialogs insert."""
    return _POLICY.format(nonce=f" 'nonce-{nonce}'" if nonce else "")


class ContentSecurityPolicy:
    """Adds the policy to every response that has none of its own; goes along with what it stands around, so that no
    request changes threads for it."""

    async_capable = sync_capable = True

    def __init__(self, get_response: Callable[[HttpRequest], Any]) -> None:
        self.get_response = get_response
        self._waits = iscoroutinefunction(get_response)
        if self._waits:
            markcoroutinefunction(self)

    def __call__(self, request: HttpRequest) -> HttpResponseBase | Awaitable[HttpResponseBase]:
        return self._later(request) if self._waits else _with_headers(request, self.get_response(request))

    async def _later(self, request: HttpRequest) -> HttpResponseBase:
        return _with_headers(request, await self.get_response(request))


def _with_headers(request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
    response.headers.setdefault("Content-Security-Policy", content_security_policy())
    if request.path.startswith("/api/") and not request.path.startswith("/api/records/"):
        # What somebody signed in has read stays in no cache; what may, says so itself.
        response.headers.setdefault("Cache-Control", "no-store")
    response.headers.setdefault("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
    return response
