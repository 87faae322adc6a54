"""Concurrent edits: entity tags and If-Match (RFC 9110, sections 8.8.3 and 13.1.1)."""

import hashlib
import json

from django.http import HttpRequest
from drf_spectacular.utils import OpenApiParameter

from nomothet.server.problems import Problem

IF_MATCH = OpenApiParameter("If-Match", str, OpenApiParameter.HEADER, description="The ETag that was read.")


def entity_tag(version: int) -> str:
    return f'"v{version}"'


def content_tag(*fields: object) -> str:
    """An entity tag of what has no version: a digest of what an edit can change."""
    return hashlib.sha256(json.dumps(fields).encode()).hexdigest()[:16]


def require_match(request: HttpRequest, version: int | str, current: object) -> None:
    """Refuse an edit that was not made on the present version, or the present content where a tag is given.

    Raises
    ------
    Problem
        428 without If-Match; 412 with the present state when somebody else was faster.
    """
    wanted = request.headers.get("If-Match")
    if wanted is None:
        raise Problem(428, "If-Match is missing", "Read the object first and send its ETag as If-Match.")
    present = entity_tag(version) if isinstance(version, int) else f'"{version}"'
    if wanted.strip() != "*" and present not in [tag.strip() for tag in wanted.split(",")]:
        raise Problem(
            412,
            "Changed meanwhile",
            "Somebody changed this after you opened it. Nothing of yours was stored; compare and save again.",
            current=current,
        )
