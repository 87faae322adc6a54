"""Security headers that Django's own middleware does not set."""

from collections.abc import Awaitable, Callable

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
    """Adds the policy to every response that has none of its own."""

    async_capable = True
    sync_capable = False

    def __init__(self, get_response: Callable[[HttpRequest], Awaitable[HttpResponseBase]]) -> None:
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)

    async def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = await self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", content_security_policy())
        if request.path.startswith("/api/") and not request.path.startswith("/api/records/"):
            # What somebody signed in has read stays in no cache; what may, says so itself.
            response.headers.setdefault("Cache-Control", "no-store")
        response.headers.setdefault("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
        return response
