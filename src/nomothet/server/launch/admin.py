"""`nomothet-server`: what is done to an installation from outside it, while it runs."""

import argparse
import os
import sys


def main(words: list[str] | None = None) -> int:
    """Run a command; its errors are told in a line."""
    arguments = _parser().parse_args(words)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nomothet.server.settings")
    os.environ.setdefault("NOMOTHET_DATABASE_PORT", str(arguments.database_port))
    import django

    django.setup()
    from django.db import DatabaseError

    from nomothet.server.problems import Problem

    try:
        arguments.run(arguments)
    except Problem as problem:
        print(f"nomothet-server: {problem.detail}", file=sys.stderr)
        return 1
    except DatabaseError as error:
        print(f"nomothet-server: the database cannot be reached ({error}). Is ./start running?", file=sys.stderr)
        return 1
    return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="nomothet-server", description="Looks after an installation that runs.")
    parser.add_argument("--database-port", type=int, default=8421)
    parser.add_argument("--address", default="http://127.0.0.1:8420", help="where the installation is reached")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    create = commands.add_parser("create-admin", help="make an admin, who sets a password by a link")
    create.add_argument("username")
    create.add_argument("display_name", nargs="?", default="")
    create.set_defaults(run=_create_admin)
    reset = commands.add_parser("reset", help="make a link by which somebody sets a new password")
    reset.add_argument("username")
    reset.add_argument("--without-second-factor", action="store_true", help="take the second factor off: it was lost")
    reset.set_defaults(run=_reset)
    return parser


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
    from nomothet.server.problems import unusable

    user = User.objects.filter(username=arguments.username, is_active=True).first()
    if user is None:
        raise unusable(f"There is no {arguments.username} who may sign in.")
    end_visits(user)
    if arguments.without_second_factor:
        second_factor.take_off(user)
        note_security("second factor off", about=user, at="the terminal")
    note_security("reset offered", about=user, at="the terminal")
    _tell(arguments, make_link(user, OneTimeLink.Purpose.RESET, None), "a day")


def _tell(arguments: argparse.Namespace, secret: str, lasts: str) -> None:
    print(f"Open this within {lasts}; it sets a password, once:\n{arguments.address}/welcome#{secret}")


if __name__ == "__main__":
    sys.exit(main())
