"""Errors as problem details (RFC 9457): one shape for every refusal of the API."""

import errno
import sys
from csv import Error as CsvError
from typing import Any

import structlog
from django.core.exceptions import PermissionDenied
from django.db import DatabaseError, DataError, InterfaceError, OperationalError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from rest_framework import exceptions, status
from rest_framework.response import Response
from rest_framework.views import set_rollback

from nomothet.core.errors import BadQuantity, BadSlots, MethodError
from nomothet.formats.errors import BadTable, FormatError
from nomothet.server.meeting import has_met

# What MariaDB calls a full disk: ENOSPC while it writes, a full disk, a full table.
_FULL = (3, 28, 1021, 1114)

# What its client calls a database that is not there, or no longer: no server, gone away, lost while it was asked, being
# shut down, the connection killed, closed; a node that its cluster is without.
_GONE = (2002, 2003, 2006, 2013, 2055, 1053, 1927, 4031, 1047, 0)
_AWAY = "The database is away and comes back by itself, mostly within seconds. Nothing was changed; try again then."
_MET = "Others were changing the same just now, and went first. Look at what is there, and try again."

log = structlog.get_logger(__name__)


class Problem(exceptions.APIException):
    """A refusal that says what happened, what was kept and what to do.

    `members` are extension members of the problem object (RFC 9457, section 3.2).
    """

    def __init__(self, code: int, title: str, detail: str, **members: Any) -> None:
        super().__init__(detail)
        self.status_code = code
        self.title = title
        self.members = members


def conflict(detail: str, **members: Any) -> Problem:
    return Problem(status.HTTP_409_CONFLICT, "Conflict", detail, **members)


def unusable(detail: str, **members: Any) -> Problem:
    """The request is well formed, but what it holds cannot be taken."""
    return Problem(status.HTTP_422_UNPROCESSABLE_ENTITY, "Cannot be taken", detail, **members)


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


def is_full(error: BaseException) -> bool:
    """Whether the disk was full, for the system (errno(3)) or for the database."""
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    code = error.args[0] if error.args else None
    return code in _FULL or any(word in str(error) for word in ("Errcode: 28", "No space left", "disk full"))


def is_away(error: BaseException | None) -> bool:
    """Whether the database could not be reached, or went away in the middle."""
    if not isinstance(error, OperationalError | InterfaceError):
        return False
    return (error.args[0] if error.args else 0) in _GONE


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
