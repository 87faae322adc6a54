"""Errors as problem details (RFC 9457): one shape for every refusal of the API."""

import sys
from csv import Error as CsvError
from typing import Any

import structlog
from django.core.exceptions import PermissionDenied
from django.db import DatabaseError, DataError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from rest_framework import exceptions
from rest_framework.response import Response
from rest_framework.views import set_rollback

from nomothet.core.errors import BadQuantity, BadSlots, MethodError
from nomothet.formats.errors import BadTable, FormatError
from nomothet.server.meeting import has_met
from nomothet.server.problems import Problem, is_away, is_full

_AWAY = "The database is away and comes back by itself, mostly within seconds. Nothing was changed; try again then."
_MET = "Others were changing the same just now, and went first. Look at what is there, and try again."

log = structlog.get_logger(__name__)


def handler(error: Exception, context: dict[str, Any]) -> Response | None:
    """Turn an exception of a view into a problem response; the transaction is rolled back."""
    problem = _problem_of(error)
    if problem is None:
        return None
    set_rollback()
    if has_met(error):
        context["request"]._request.turned_away = True
    code, title, detail, members = problem
    headers = {}
    challenge = getattr(error, "auth_header", None)
    if challenge:
        headers["WWW-Authenticate"] = challenge
    body = {"type": "about:blank", "title": title, "status": code, "detail": detail, **members}
    return Response(body, status=code, headers=headers, content_type="application/problem+json")


def _problem_of(error: Exception) -> tuple[int, str, str, dict[str, Any]] | None:
    if isinstance(error, Problem):
        return error.status_code, error.title, str(error.detail), error.members
    if isinstance(error, exceptions.ValidationError):
        return 400, "Not valid", _first_message(error.detail), {"errors": error.detail}
    if isinstance(error, exceptions.NotAuthenticated):
        return error.status_code, "Not signed in", "Sign in to go on; a script sends a token.", {}
    if isinstance(error, exceptions.AuthenticationFailed):
        return error.status_code, "Not signed in", str(error.detail), {}
    if isinstance(error, PermissionDenied | exceptions.PermissionDenied):
        return 403, "Not allowed", str(error) or "Your role does not allow this.", {}
    if isinstance(error, Http404):
        return 404, "Not found", str(error) or "There is nothing under this address.", {}
    if isinstance(error, exceptions.APIException):
        return error.status_code, error.default_code.replace("_", " ").capitalize(), str(error.detail), {}
    if isinstance(error, BadTable):
        members = {"remedy": error.remedy} | ({"row": error.row} if error.row is not None else {})
        return 422, "Cannot be taken", str(error), members
    if isinstance(error, DataError):
        return 422, "Cannot be taken", "A number or a text is larger than can be kept here. Nothing was changed.", {}
    if isinstance(error, DatabaseError | OSError) and is_full(error):
        return 507, "No room", "The disk of the server is full. Nothing was stored; tell who looks after it.", {}
    if is_away(error):
        log.warning("database not reached", error=str(error))
        return 503, "Not just now", _AWAY, {}
    if has_met(error):
        return 503, "Not just now", _MET, {}
    if isinstance(error, RecursionError):
        return 400, "Not valid", "The body is nested too deeply to be read. Nothing was changed.", {}
    if isinstance(error, CsvError):
        return 422, "Cannot be taken", f"This is no CSV: {error}. Nothing was imported.", {}
    if isinstance(error, BadQuantity):
        return 422, "Cannot be taken", str(error), {"field": error.field}
    if isinstance(error, BadSlots):
        return 422, "Cannot be taken", str(error), {"field": "slots", "slot": error.slot}
    if isinstance(error, FormatError | MethodError):
        return 422, "Cannot be taken", str(error), {}
    return None


def failed(request: HttpRequest) -> HttpResponse:
    """What nobody has foreseen: its traceback is in the log of the server, not in the answer."""
    code, title = 500, "Server error"
    detail = "The server failed on this; its log tells more. Nothing was changed; try again, or tell an admin."
    if is_away(sys.exception()):
        code, title, detail = 503, "Not just now", _AWAY
    if not request.path.startswith("/api/"):
        return HttpResponse(detail, status=code, content_type="text/plain; charset=utf-8")
    body = {"type": "about:blank", "title": title, "status": code, "detail": detail}
    return JsonResponse(body, status=code, content_type="application/problem+json")


def _first_message(detail: Any) -> str:
    if isinstance(detail, dict):
        name, value = next(iter(detail.items()))
        return f"{name}: {_first_message(value)}"
    if isinstance(detail, list):
        return _first_message(detail[0])
    return str(detail)
