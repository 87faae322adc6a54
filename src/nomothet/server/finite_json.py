"""Answers as JSON, which knows neither infinity nor NaN."""

from collections.abc import Mapping
from typing import Any

from rest_framework.renderers import JSONRenderer

from nomothet.formats.plain import stored
from nomothet.server.shapes import Written


class FiniteJSONRenderer(JSONRenderer):
    """JSON in which a number that is not finite is null: one impossible figure must not take a whole review away."""

    def render(
        self, data: Any, accepted_media_type: str | None = None, renderer_context: Mapping[str, Any] | None = None
    ) -> bytes:
        if isinstance(data, Written):
            return data.json
        try:
            return super().render(data, accepted_media_type, renderer_context)
        except ValueError:
            return super().render(stored(data), accepted_media_type, renderer_context)
