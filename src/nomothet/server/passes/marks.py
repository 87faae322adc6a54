"""Marks of passes as they are read; intake.marking makes them."""

import uuid

from nomothet.server.passes.models import Mark


def marks_of(pass_ids: list[uuid.UUID]) -> dict[str, list[Mark]]:
    """Marks by the pass they are on, or will be on; one query."""
    found: dict[str, list[Mark]] = {}
    for mark in Mark.objects.filter(pass_id__in=pass_ids).select_related("by"):
        found.setdefault(str(mark.pass_id), []).append(mark)
    return found
