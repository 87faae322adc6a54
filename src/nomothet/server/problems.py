"""Refusals, and what a database or a disk says that takes nothing."""

import errno
from typing import Any

from django.db import InterfaceError, OperationalError
from rest_framework import exceptions, status

# What MariaDB calls a full disk: ENOSPC while it writes, a full disk, a full table.
_FULL = (3, 28, 1021, 1114)

# What its client calls a database that is not there, or no longer: no server, gone away, lost while it was asked, being
# shut down, the connection killed, closed; a node that its cluster is without.
_GONE = (2002, 2003, 2006, 2013, 2055, 1053, 1927, 4031, 1047, 0)


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
