"""What the team has agreed on."""

from typing import Any

from django.http import HttpRequest

from nomothet.server.people.models import Team, User
from nomothet.server.people.permissions import Act, require
from nomothet.server.people.security import note_security
from nomothet.server.problems import unusable


def set_team(user: User, request: HttpRequest, **settings: Any) -> Team:
    """Set what the team has agreed on.

    Parameters
    ----------
    name : str, optional
        Of the team.
    two_signatures : bool, optional
        Whether a verdict wants an author and a second reader before it is published.
    second_factor : str, optional
        Who needs a second factor to do more than read: "", "admins" or "everybody".

    Raises
    ------
    Problem
        422 when a second factor is asked of somebody who asks for it and has none.
    """
    require(user, Act.SET_TEAM)
    if settings.get("second_factor") and not user.totp:
        raise unusable("Set a second factor of your own first; you are asked for one too.", field="second_factor")
    team = Team.settings()
    for name, value in settings.items():
        setattr(team, name, value)
    team.save()
    note_security("team setting", by=user, request=request, **settings)
    return team
