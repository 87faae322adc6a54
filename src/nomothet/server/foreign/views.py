"""The page of a record of foreign origin, its files and its pictures; for those who are signed in."""

import csv
import io
import json
import secrets
from collections.abc import Callable, Iterator
from functools import wraps
from pathlib import PurePosixPath
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404

from nomothet.formats.record_packages import ABOUT
from nomothet.server.foreign.models import ForeignRecord
from nomothet.server.foreign.packages import PIECE, opened, pieces
from nomothet.server.foreign.queries import again_of
from nomothet.server.headers import content_security_policy
from nomothet.server.passes.pictures import small_picture
from nomothet.server.records.page.render import Links, render_foreign

View = Callable[..., HttpResponseBase]
_READY = ForeignRecord.objects.filter(state=ForeignRecord.State.READY, removed_at=None)


def _for_the_team(view: View) -> View:
    @wraps(view)
    def guarded(request: HttpRequest, *args: Any, **named: Any) -> HttpResponseBase:
        if not request.user.is_authenticated:
            return HttpResponseRedirect("/")
        return view(request, *args, **named)

    return guarded


@_for_the_team
def page(request: HttpRequest, record: int) -> HttpResponse:
    """The record as its publisher froze it, with where it comes from above it."""
    found = get_object_or_404(_READY.select_related("brought_by"), pk=record)
    nonce = secrets.token_urlsafe(16)
    text = render_foreign(
        found.content,
        request.GET.dict(),
        about={
            "origin": found.origin,
            "edition": found.edition,
            "by": found.brought_by.display_name,
            "at": found.brought_at,
            "again": again_of(found),
            "files": found.checked["files"],
        },
        links=_links(found),
        nonce=nonce,
    )
    response = HttpResponse(text)
    response.headers["Content-Security-Policy"] = content_security_policy(nonce)
    response.headers["Cache-Control"] = "private, no-cache"
    return response


@_for_the_team
def package(request: HttpRequest, record: int) -> StreamingHttpResponse:
    """The package, byte by byte as it was brought in."""
    found = get_object_or_404(_READY.defer("content"), pk=record)
    return _attached(pieces(found), "application/zip", f"foreign-{found.pk}.zip")


@_for_the_team
def table(request: HttpRequest, record: int, path: str) -> StreamingHttpResponse:
    """A table of the package, such as figures.csv or the frames of a pass."""
    found = get_object_or_404(_READY.defer("content"), pk=record)
    archive = opened(found)
    about = json.loads(archive.read(ABOUT))
    if path not in {one["path"] for one in about["resources"] if one.get("format") == "csv"}:
        raise Http404

    def lines() -> Iterator[bytes]:
        with archive, archive.open(path) as file:
            while piece := file.read(PIECE):
                yield piece

    return _attached(lines(), "text/csv; charset=utf-8", PurePosixPath(path).name)


@_for_the_team
def captures(request: HttpRequest, record: int) -> HttpResponse:
    """The captures of the package with their passes, as a table that names the address of each."""
    found = get_object_or_404(_READY.defer("content"), pk=record)
    with opened(found) as archive:
        about = json.loads(archive.read(ABOUT))
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["pass_id", "capture", "unit", "source", "address"])
    base = f"{request.scheme}://{request.get_host()}/foreign/{found.pk}/tables/"
    for one in about["resources"]:
        if one.get("pass_id"):
            writer.writerow([one["pass_id"], one["title"], one["unit"], one["source"], base + one["path"]])
    return HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")


@_for_the_team
def picture(request: HttpRequest, record: int, number: int) -> HttpResponse:
    """A picture of the package, made anew: its bytes are not ours."""
    found = get_object_or_404(_READY.defer("content"), pk=record)
    with opened(found) as archive:
        about = json.loads(archive.read(ABOUT))
        path = next((one["path"] for one in about["resources"] if one["name"] == f"picture-{number}"), None)
        if path is None:
            raise Http404
        content = archive.read(path)
    return HttpResponse(small_picture(content), content_type="image/jpeg")


def _links(record: ForeignRecord) -> Links:
    base = f"/foreign/{record.pk}"
    return {
        "package": f"{base}/package.zip",
        "figures": f"{base}/tables/figures.csv",
        "comparisons": f"{base}/tables/comparisons.csv",
        "captures": f"{base}/captures.csv",
        "pictures": f"{base}/pictures",
    }


def _attached(content: Iterator[bytes], kind: str, name: str) -> StreamingHttpResponse:
    response = StreamingHttpResponse(content, content_type=kind)
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
