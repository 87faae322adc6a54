"""What the team has agreed on."""

from django.http import HttpRequest

from nomothet.server.people.models import Team, User
from nomothet.server.people.permissions import Act, require
from nomothet.server.people.security import note_security


def set_team(user: User, request: HttpRequest, two_signatures: bool) -> Team:
    """Whether a verdict wants an author and a second reader before it is published."""
    require(user, Act.SET_TEAM)
    team = Team.settings()
    team.two_signatures = two_signatures
    team.save()
    note_security("team setting", by=user, request=request, two_signatures=two_signatures)
    return team
