"""Concurrent edits: entity tags and If-Match (RFC 9110, sections 8.8.3 and 13.1.1)."""

from django.http import HttpRequest
from drf_spectacular.utils import OpenApiParameter

from nomothet.server.problems import Problem

IF_MATCH = OpenApiParameter("If-Match", str, OpenApiParameter.HEADER, description="The ETag that was read.")


def entity_tag(version: int) -> str:
    return f'"v{version}"'


def require_match(request: HttpRequest, version: int, current: object) -> None:
    """Refuse an edit that was not made on the present version.

    Raises
    ------
    Problem
        428 without If-Match; 412 with the present state when somebody else was faster.
    """
    wanted = request.headers.get("If-Match")
    if wanted is None:
        raise Problem(428, "If-Match is missing", "Read the object first and send its ETag as If-Match.")
    if wanted.strip() != "*" and entity_tag(version) not in [tag.strip() for tag in wanted.split(",")]:
        raise Problem(
            412,
            "Changed meanwhile",
            "Somebody changed this after you opened it. Nothing of yours was stored; compare and save again.",
            current=current,
        )
