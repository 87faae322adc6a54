"""What the team has agreed on."""

from nomothet.server.people.models import Team, User
from nomothet.server.people.permissions import Act, require


def set_team(user: User, two_signatures: bool) -> Team:
    """Whether a verdict wants an author and a second reader before it is published."""
    require(user, Act.SET_TEAM)
    team = Team.settings()
    team.two_signatures = two_signatures
    team.save()
    return team
