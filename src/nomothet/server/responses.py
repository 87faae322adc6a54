"""What views share: numbers from addresses, and lines sent as CSV."""

import itertools
import math
from collections.abc import Iterable, Iterator

from django.http import StreamingHttpResponse
from rest_framework.request import Request

from nomothet.server.problems import unusable

_LINES_A_PIECE = 2000


def number_parameter(request: Request, name: str) -> float | None:
    """A number from the address, or a refusal that names the parameter."""
    text = request.query_params.get(name)
    if text is None:
        return None
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise unusable(f"{name} is {text!r}; it must be a number.")
    return value


def _in_pieces(lines: Iterable[str]) -> Iterator[str]:
    """Lines joined by the thousand: each piece costs the server a change of threads."""
    rest = iter(lines)
    while piece := "".join(itertools.islice(rest, _LINES_A_PIECE)):
        yield piece


def csv_response(lines: Iterable[str], name: str) -> StreamingHttpResponse:
    response = StreamingHttpResponse(_in_pieces(lines), content_type="text/csv; charset=utf-8")
    response.headers["Content-Disposition"] = f'attachment; filename="{name}.csv"'
    return response
