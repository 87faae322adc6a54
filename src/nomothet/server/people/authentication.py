"""Scripts sign in with a personal token: `Authorization: Bearer TOKEN` (RFC 6750)."""

import hashlib
from typing import Any

from django.conf import settings
from django.utils import timezone
from drf_spectacular.extensions import OpenApiAuthenticationExtension
from rest_framework.authentication import BaseAuthentication, SessionAuthentication
from rest_framework.exceptions import AuthenticationFailed
from rest_framework.request import Request

from nomothet.server.people.models import Token, User


def digest_of(secret: str) -> str:
    """What is kept of a token's secret."""
    # A secret of 256 random bits needs no slow digest.
    return hashlib.sha256(secret.encode()).hexdigest()


class BrowserAuthentication(SessionAuthentication):
    """The session of a browser; who has none is answered with 401, and may come with a token."""

    def authenticate_header(self, request: Request) -> str:
        return "Bearer"


class BrowserScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    """Describes the session's cookie to the OpenAPI document."""

    target_class = BrowserAuthentication
    name = "browserSession"

    def get_security_definition(self, auto_schema: Any) -> dict[str, str]:
        return {"type": "apiKey", "in": "cookie", "name": settings.SESSION_COOKIE_NAME}


class TokenAuthentication(BaseAuthentication):
    def authenticate(self, request: Request) -> tuple[User, Token] | None:
        scheme, _, secret = request.headers.get("Authorization", "").partition(" ")
        if scheme.lower() != "bearer" or not secret:
            return None
        found = Token.objects.select_related("user").filter(digest=digest_of(secret.strip()), revoked_at=None).first()
        if found is None or not found.user.is_active:
            raise AuthenticationFailed("This token is not known, or was revoked. Make a new one on the account page.")
        Token.objects.filter(pk=found.pk).update(used_at=timezone.now())
        return found.user, found

    def authenticate_header(self, request: Request) -> str:
        return "Bearer"


class TokenScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    """Describes personal tokens to the OpenAPI document."""

    target_class = TokenAuthentication
    name = "personalToken"

    def get_security_definition(self, auto_schema: Any) -> dict[str, str]:
        return {"type": "http", "scheme": "bearer", "description": "A personal token of the account page."}
