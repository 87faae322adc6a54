"""Who may do what. Every command asks here first; a view that only reads asks through its permission class."""

from enum import Enum
from typing import Any, cast

from django.core.exceptions import PermissionDenied
from rest_framework.permissions import SAFE_METHODS, BasePermission
from rest_framework.request import Request

from nomothet.server.people.models import Role, Token, User
from nomothet.server.people.sessions import note_use


class Act(Enum):
    """What a person can do, with the lowest role that may and the words for a refusal."""

    COMMENT = (Role.READER, "comment")
    ASK_FOR_PASSES = (Role.TESTER, "ask for passes")
    IMPORT_PASSES = (Role.TESTER, "import passes")
    SET_ASIDE = (Role.TESTER, "set passes aside")
    RECORD = (Role.TESTER, "record by hand")
    STOP_PASSES = (Role.TESTER, "stop passes")
    FOLLOW_UP = (Role.TESTER, "note follow-ups")
    TICK_STEPS = (Role.TESTER, "tick steps of the docket")
    EDIT_SHELF = (Role.TESTER, "edit the shelf")
    EDIT_SYSTEMS = (Role.TESTER, "edit systems and configurations")
    ADD_SYSTEMS = (Role.EDITOR, "add systems")
    EDIT_WORKLOADS = (Role.EDITOR, "edit workloads")
    EDIT_REVIEW = (Role.EDITOR, "edit reviews")
    PUBLISH = (Role.EDITOR, "publish records")
    SIGN = (Role.TESTER, "sign verdicts")
    SET_TEAM = (Role.ADMIN, "change what the team has agreed on")
    MANAGE_PEOPLE = (Role.ADMIN, "manage people")
    READ_SECURITY_LOG = (Role.ADMIN, "read the security log")
    MANAGE_BENCHES = (Role.ADMIN, "connect benches")
    LOOK_AFTER = (Role.ADMIN, "look after the installation")

    @property
    def lowest(self) -> Role:
        return self.value[0]


def may(user: User, act: Act) -> bool:
    if user.rank < Role.values.index(act.lowest):
        return False
    return act.lowest is Role.READER or not user.owes_second_factor


def require(user: User, act: Act) -> None:
    """Refuse an act that the user's role does not allow.

    Raises
    ------
    PermissionDenied
    """
    _, words = act.value
    if act.lowest is not Role.READER and user.owes_second_factor:
        raise PermissionDenied(
            f"To {words}, set a second factor on the page of your account: the team asks for one. Until then you read."
        )
    if user.rank < Role.values.index(act.lowest):
        raise PermissionDenied(f"To {words}, the role {act.lowest.value} is needed; yours is {user.role}.")


def signed_in(request: Request) -> User:
    """The user of a request that has passed `SignedIn`."""
    return cast(User, request.user)


class SignedIn(BasePermission):
    """Every signed-in person may read; a script with a token does no more than its scope says.

    A view that takes recordings of scripts says so by `for_scripts = True`. One whose body or path is looked at before
    its command asks says by `needs`, a map of methods to acts, what is asked first.
    """

    def has_permission(self, request: Request, view: Any) -> bool:
        if not (isinstance(request.user, User) and request.user.is_active):
            return False
        if request.auth is None:
            note_use(request._request)
        self._ask_what_a_view_needs(request, view)
        if not isinstance(request.auth, Token) or request.method in SAFE_METHODS:
            return True
        if request.auth.scope == Token.Scope.RECORDING and getattr(view, "for_scripts", False):
            return True
        raise PermissionDenied(
            f"This token is for {request.auth.scope}; what you ask for is done by signing in on the page."
        )

    @staticmethod
    def _ask_what_a_view_needs(request: Request, view: Any) -> None:
        needs: dict[str, Act] = getattr(view, "needs", {})
        if request.method in needs:
            require(signed_in(request), needs[request.method])
