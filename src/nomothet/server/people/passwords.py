"""Setting a password: the same rules on every way in."""

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction

from nomothet.server.people.models import User
from nomothet.server.people.sessions import end_visits
from nomothet.server.problems import unusable


def set_password(user: User, password: str, *, keep: str | None = None) -> None:
    """Set a password and end the sessions that were begun with the one of before.

    Parameters
    ----------
    keep : str, optional
        The key of the session that stays.

    Raises
    ------
    Problem
        When the rules do not allow it; says which.
    """
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise unusable(" ".join(error.messages), field="password") from None
    with transaction.atomic():
        user.set_password(password)
        user.save(update_fields=["password"])
        end_visits(user, but=keep)
