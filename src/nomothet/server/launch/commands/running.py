"""Commands that run a part of an installation until a signal comes, for a service manager."""

import argparse
import contextlib
import threading

from nomothet.server.launch.errors import LaunchError


def add(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Declare the commands."""
    database = commands.add_parser("database", help="run the installation's database until a signal comes")
    database.set_defaults(run=_database)
    serve = commands.add_parser("serve", help="bring the tables up to date and answer requests, until a signal comes")
    serve.add_argument("--port", type=int, default=8420)
    serve.add_argument("--processes", type=int, choices=range(1, 17), default=2)
    serve.set_defaults(run=_serve)
    work = commands.add_parser("work", help="do the heavy work in the background, until a signal comes")
    work.set_defaults(run=_work)


def _database(arguments: argparse.Namespace) -> None:
    from nomothet.server.launch.__main__ import ended_by_signals
    from nomothet.server.launch.database import PrivateDatabase
    from nomothet.server.launch.ports import require_free
    from nomothet.server.launch.secrets import ensure_secrets

    require_free(arguments.database_port, "the database", "--database-port")
    over = ended_by_signals()
    database = PrivateDatabase(arguments.var / "database", arguments.database_port, ensure_secrets(arguments.var))
    database.start()
    try:
        while not over.wait(0.3):
            if database.child is None or not database.child.running:
                raise LaunchError(f"The database ended by itself; see {database.log}.")
    finally:
        database.stop()


def _serve(arguments: argparse.Namespace) -> int:
    from nomothet.server.launch.__main__ import ended_by_signals
    from nomothet.server.launch.migrating import migrate
    from nomothet.server.launch.run import Installation

    over = ended_by_signals()
    installation = Installation(arguments.var, arguments.port, arguments.database_port, arguments.processes)
    with contextlib.ExitStack() as stack:
        stack.callback(installation.stop)
        installation.read_code()
        installation.wait_for_database(over)
        migrate()
        installation.start_server()
        installation.wait_for_server(over)
        return installation.wait(over)


def _work(arguments: argparse.Namespace) -> None:
    from nomothet.server.launch.run import Installation
    from nomothet.server.upkeep.worker import main

    # Until it works a signal ends it at once; from then on it ends its task first.
    over = threading.Event()
    installation = Installation(arguments.var, 0, arguments.database_port)
    installation.read_code()
    installation.wait_for_database(over)
    # The server makes them at its first start and changes them after an upgrade, which takes its time.
    installation.wait_for_tables(over)
    main()
