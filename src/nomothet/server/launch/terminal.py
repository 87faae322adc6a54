"""`nomothet-server`: running an installation's parts one by one, and looking after it from the terminal."""

import argparse
import os
import sys
from pathlib import Path

from nomothet.server.launch.commands import captures, keeping, people, running

_PROJECT = Path(__file__).resolve().parents[4]


def main(words: list[str] | None = None) -> int:
    """Run a command; its errors are told in a line."""
    arguments = _parser().parse_args(words)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nomothet.server.settings")
    os.environ.setdefault("NOMOTHET_DATABASE_PORT", str(arguments.database_port))
    arguments.var = Path(os.environ.get("NOMOTHET_VAR", _PROJECT / "var"))
    from django.db import DatabaseError

    from nomothet.server.launch.backups.errors import BackupError
    from nomothet.server.launch.errors import LaunchError

    try:
        return int(arguments.run(arguments) or 0)
    except (BackupError, LaunchError) as error:
        print(f"nomothet-server: {error}", file=sys.stderr)
    except DatabaseError as error:
        print(f"nomothet-server: the database cannot be reached ({error}). Is ./start running?", file=sys.stderr)
    return 1


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="nomothet-server", description="Runs and looks after an installation.")
    parser.add_argument("--database-port", type=int, default=8421)
    parser.add_argument(
        "--address",
        default=os.environ.get("NOMOTHET_ADDRESS", "http://127.0.0.1:8420"),
        help="where the installation is reached (NOMOTHET_ADDRESS)",
    )
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    for add in (people.add, keeping.add, captures.add, running.add):
        add(commands)
    return parser


if __name__ == "__main__":
    sys.exit(main())
