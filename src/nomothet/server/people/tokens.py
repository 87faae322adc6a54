"""Personal tokens: made once, kept as digests, for reading or for recording."""

import secrets

from django.db.models import QuerySet
from django.http import HttpRequest
from django.utils import timezone

from nomothet.server.people.authentication import digest_of
from nomothet.server.people.models import Token, User
from nomothet.server.people.security import note_security
from nomothet.server.problems import conflict, unusable

MOST_TOKENS = 20
# What a token begins with, so that one that has got into a text can be found there.
START = "nmt_"


def make_token(user: User, request: HttpRequest | None, name: str, scope: str) -> tuple[Token, str]:
    """A token and its secret, which is told this once."""
    if not name.strip():
        raise unusable("Say what the token is for.", field="name")
    if own_tokens(user).count() >= MOST_TOKENS:
        raise conflict(f"{MOST_TOKENS} tokens are the most; revoke one first.")
    secret = START + secrets.token_urlsafe(32)
    made = Token.objects.create(user=user, name=name.strip()[:80], scope=scope, digest=digest_of(secret))
    note_security("token made", by=user, request=request, name=made.name, scope=scope)
    return made, secret


def revoke_token(user: User, request: HttpRequest | None, token: Token) -> None:
    """End a token of one's own."""
    if token.user_id != user.pk:
        raise conflict("Only its owner revokes a token.")
    if token.revoked_at is None:
        token.revoked_at = timezone.now()
        token.save(update_fields=["revoked_at"])
        note_security("token revoked", by=user, request=request, name=token.name)


def own_tokens(user: User) -> "QuerySet[Token]":
    """The tokens of a person that were not revoked."""
    return Token.objects.filter(user=user, revoked_at=None)
