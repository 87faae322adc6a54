"""The public addresses of records: the page, one file of it, its charts, and its picture for those who share it."""

import secrets
import tempfile
from collections.abc import Mapping

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.template.loader import render_to_string

from nomothet.server.headers import content_security_policy
from nomothet.server.records.charts import chart_of
from nomothet.server.records.earlier import readable
from nomothet.server.records.models import Record
from nomothet.server.records.package import write_package
from nomothet.server.records.page.render import description_of, findings_in, positions_in, render_page
from nomothet.server.records.page.shared_picture import shared_picture

# What is frozen stays as it is; questions and newer editions are told within minutes.
_PAGE_AGE = "public, max-age=60"
_FROZEN_AGE = "public, max-age=86400, immutable"


def page_with_problem(
    request: HttpRequest, record: Record, problem: str, typed: Mapping[str, str], status: int
) -> HttpResponse:
    """The page with what was wrong about a message, and what was typed."""
    nonce = secrets.token_urlsafe(16)
    text = render_page(record, {}, base=_base(request), nonce=nonce, problem=problem, typed=typed)
    return _html(text, nonce, status)


def page(request: HttpRequest, slug: str) -> HttpResponse:
    """The page of a record; one that is withdrawn tells why, and nothing else."""
    record = get_object_or_404(Record, slug=slug)
    nonce = secrets.token_urlsafe(16)
    if record.withdrawn_at is not None:
        return _html(render_to_string("records/withdrawn.html", {"record": record, "nonce": nonce}), nonce, status=410)
    text = render_page(record, request.GET.dict(), base=_base(request), nonce=nonce)
    return _html(text, nonce)


def one_file(request: HttpRequest, slug: str) -> HttpResponse:
    """The whole page as one file, with its fonts and pictures."""
    record = _standing(slug)
    response = HttpResponse(render_page(record, {}, base=_base(request), alone=True))
    response.headers["Content-Disposition"] = f'attachment; filename="{slug}.html"'
    return response


def package(request: HttpRequest, slug: str) -> FileResponse:
    """The record with all its data as one file; made in a file of its own, however large it is."""
    record = _standing(slug)
    out = tempfile.TemporaryFile()  # noqa: SIM115 - closed by the response
    write_package(record, out, base=_base(request))
    out.seek(0)
    return FileResponse(out, as_attachment=True, filename=f"{slug}.zip", content_type="application/zip")


def chart(request: HttpRequest, slug: str, number: int) -> HttpResponse:
    """A finding's chart at a lasting address, to be embedded elsewhere."""
    content = readable(_standing(slug).content)
    finding = dict(findings_in(content)).get(number)
    drawn = chart_of(finding, positions_in(content), alone=True) if finding else None
    if drawn is None or not drawn.svg:
        raise Http404
    response = HttpResponse(drawn.svg, content_type="image/svg+xml")
    response.headers["Cache-Control"] = _FROZEN_AGE
    # A picture may stand in any page.
    response.headers["Cross-Origin-Resource-Policy"] = "cross-origin"
    return response


def picture(request: HttpRequest, slug: str) -> HttpResponse:
    """The picture that stands beside a shared address."""
    record = _standing(slug)
    content = readable(record.content)
    blob = shared_picture(content["review"]["question"], description_of(content), positions_in(content))
    response = HttpResponse(blob, content_type="image/png")
    response.headers["Cache-Control"] = _FROZEN_AGE
    return response


def _standing(slug: str) -> Record:
    return get_object_or_404(Record, slug=slug, withdrawn_at=None)


def _base(request: HttpRequest) -> str:
    return f"{request.scheme}://{request.get_host()}"


def _html(text: str, nonce: str, status: int = 200) -> HttpResponse:
    response = HttpResponse(text, status=status)
    response.headers["Content-Security-Policy"] = content_security_policy(nonce)
    response.headers["Cache-Control"] = _PAGE_AGE if status == 200 else "no-cache"
    return response
