"""Commands about people."""

import argparse
import json
from typing import TYPE_CHECKING, Any

from nomothet.server.launch.errors import LaunchError
from nomothet.server.reading_code import set_up

if TYPE_CHECKING:
    from nomothet.server.people.models import User


def add(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Declare the commands."""
    create = commands.add_parser("create-admin", help="make an admin, who sets a password by a link")
    create.add_argument("username")
    create.add_argument("display_name", nargs="?", default="")
    create.set_defaults(run=_told(_create_admin))
    reset = commands.add_parser("reset", help="make a link by which somebody sets a new password")
    reset.add_argument("username")
    reset.add_argument("--without-second-factor", action="store_true", help="take the second factor off: it was lost")
    reset.set_defaults(run=_told(_reset))

    renew = commands.add_parser(
        "renew-secrets", help="a new key and a new password of the database; ends all sessions, then start again"
    )
    renew.set_defaults(run=_told(_renew))

    export = commands.add_parser("export-person", help="write all that is known of somebody, as JSON")
    export.add_argument("username")
    export.set_defaults(run=_told(_export))
    erase = commands.add_parser("erase-person", help="take the name of somebody who is disabled out of everything")
    erase.add_argument("username")
    erase.add_argument("--in-records", action="store_true", help="out of published records too")
    erase.add_argument("--also", action="append", default=[], help="another name that stands for them")
    erase.set_defaults(run=_told(_erase))


def _told(run: Any) -> Any:
    """A command on the database; what the application refuses is told in a line."""

    def command(arguments: argparse.Namespace) -> None:
        set_up()
        from nomothet.server.problems import Problem

        try:
            run(arguments)
        except Problem as problem:
            raise LaunchError(str(problem.detail)) from None

    return command


def _create_admin(arguments: argparse.Namespace) -> None:
    from nomothet.server.people.links import make_link
    from nomothet.server.people.members import new_person
    from nomothet.server.people.models import OneTimeLink, Role
    from nomothet.server.people.security import note_security

    user = new_person(arguments.username, arguments.display_name or arguments.username, Role.ADMIN)
    note_security("invited", about=user, role=Role.ADMIN.value, at="the terminal")
    _tell(arguments, make_link(user, OneTimeLink.Purpose.INVITATION, None), "7 days")


def _reset(arguments: argparse.Namespace) -> None:
    from nomothet.server.people import second_factor
    from nomothet.server.people.links import make_link
    from nomothet.server.people.models import OneTimeLink, User
    from nomothet.server.people.security import note_security
    from nomothet.server.people.sessions import end_visits

    user = User.objects.filter(username=arguments.username, is_active=True).first()
    if user is None:
        raise LaunchError(f"There is no {arguments.username} who may sign in.")
    end_visits(user)
    if arguments.without_second_factor:
        second_factor.take_off(user)
        note_security("second factor off", about=user, at="the terminal")
    note_security("reset offered", about=user, at="the terminal")
    _tell(arguments, make_link(user, OneTimeLink.Purpose.RESET, None), "a day")


def _renew(arguments: argparse.Namespace) -> None:
    from nomothet.server.launch.renewing import renew

    ended = renew(arguments.var)
    print(f"The secrets are renewed, and all sessions are ended ({ended}).")
    print("Start the installation again now: until then it runs on the old ones.")
    print("Tokens of benches and people stay as they are.")


def _export(arguments: argparse.Namespace) -> None:
    from nomothet.server.upkeep.personal_data import known_of

    print(json.dumps(known_of(_known(arguments.username)), indent=1, ensure_ascii=False))


def _erase(arguments: argparse.Namespace) -> None:
    from nomothet.server.upkeep.personal_data import erase

    user = _known(arguments.username)
    erased = erase(None, None, user, in_records=arguments.in_records, also=arguments.also, at="the terminal")
    print(f"{erased.changed} entries say {erased.name} now.")


def _known(username: str) -> "User":
    from nomothet.server.people.models import User

    user = User.objects.filter(username=username).first()
    if user is None:
        raise LaunchError(f"There is no {username}.")
    return user


def _tell(arguments: argparse.Namespace, secret: str, lasts: str) -> None:
    print(f"Open this within {lasts}; it sets a password, once:\n{arguments.address}/welcome#{secret}")
