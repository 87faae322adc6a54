"""`./start` after set-up: database, migrations, demo, server, benches; until Ctrl-C."""

import argparse
import contextlib
import os
import shutil
import signal
import sys
import threading
from collections.abc import Sequence
from pathlib import Path

from nomothet.server.demo.scenario import Scenario
from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.errors import LaunchError
from nomothet.server.launch.migrating import migrate
from nomothet.server.launch.ports import require_free
from nomothet.server.launch.run import Installation
from nomothet.server.launch.secrets import ensure_secrets

PROJECT = Path(__file__).resolve().parents[4]
_DEMO_PORT, _OWN_PORT = 8420, 8430
_THROWN_AWAY = ("database", "benches", "imports")


def main() -> int:
    """Run everything until a signal comes."""
    arguments = arguments_of(sys.argv[1:])
    var = Path(os.environ.get("NOMOTHET_VAR", PROJECT / "var" / "own" if arguments.own else PROJECT / "var"))
    over = ended_by_signals()
    try:
        with contextlib.ExitStack() as stack:
            return _run(arguments, var, over, stack)
    except LaunchError as error:
        print(f"nomothet: {error}", file=sys.stderr)
        return 1


def ended_by_signals() -> threading.Event:
    """An event that is set when this process is asked to end.

    A thread sets it: the handler may interrupt a `wait` that holds the event's lock, and would wait for it for good.
    """
    over = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda _number, _frame: threading.Thread(target=over.set).start())
    return over


def arguments_of(words: Sequence[str]) -> argparse.Namespace:
    """What the words after `./start` say; the database's port is one above the application's."""
    parser = argparse.ArgumentParser(prog="./start", add_help=False, usage="./start --help")
    parser.add_argument("--fresh", action="store_true")
    parser.add_argument("--yes", action="store_true")
    parser.add_argument("--own", action="store_true")
    parser.add_argument("--port", type=int)
    parser.add_argument("--database-port", type=int)
    parser.add_argument("--processes", type=int, choices=range(1, 17), default=2)
    parser.add_argument("--without-demo", action="store_true")
    parser.add_argument("--no-benches", action="store_true")
    parser.add_argument("--new-sign-ins", action="store_true")
    arguments = parser.parse_args(words)
    arguments.without_demo |= arguments.own
    # A team's own data and the demo run beside each other.
    port = _OWN_PORT if arguments.own else _DEMO_PORT
    arguments.port = arguments.port or port
    arguments.database_port = arguments.database_port or arguments.port + 1
    return arguments


def _run(arguments: argparse.Namespace, var: Path, over: threading.Event, stack: contextlib.ExitStack) -> int:
    require_free(arguments.port, "the application", "--port")
    require_free(arguments.database_port, "the database", "--database-port")
    if arguments.fresh:
        _throw_away(var, sure=arguments.yes)
    database = PrivateDatabase(var / "database", arguments.database_port, ensure_secrets(var))
    installation = Installation(var, arguments.port, arguments.database_port, arguments.processes)
    print("Starting the database.", flush=True)
    stack.callback(installation.stop)
    installation.start_database(database)
    migrate()
    scenario = Scenario.read(PROJECT / "demo")
    sign_ins = {} if arguments.without_demo else installation.load_demo(scenario, anew=arguments.new_sign_ins)
    print("Starting the server.", flush=True)
    installation.start_server()
    # Beside the server, which has most of its start behind it when somebody asks for the first page.
    installation.start_worker()
    installation.wait_for_server(over)
    installation.wait_for_worker(over)
    if arguments.without_demo:
        greet_team(installation.address)
        return installation.wait(over)
    if not arguments.no_benches:
        installation.start_benches(PROJECT / "demo", over, scenario)
    if not over.is_set():
        greet(installation.address, sign_ins, scenario)
    return installation.wait(over)


def _throw_away(var: Path, *, sure: bool) -> None:
    """Delete the data of an installation, after asking.

    Raises
    ------
    LaunchError
        When nobody says yes.
    """
    there = [var / part for part in _THROWN_AWAY if (var / part).exists()]
    if not there:
        return
    if not sure:
        print(f"--fresh deletes everything that was measured, said and published here ({var}). Backups stay.")
        if not sys.stdin.isatty():
            raise LaunchError("Nothing was deleted. Say ./start --fresh --yes where nobody can be asked.")
        if input("Type yes to delete it: ").strip() != "yes":
            raise LaunchError("Nothing was deleted.")
    for path in there:
        shutil.rmtree(path, ignore_errors=True)


def greet_team(address: str) -> None:
    """Say where it is; and as long as nobody may sign in, where the first admin is made, by a secret that is told this
    once."""
    from django.db import connection

    from nomothet.server.people.beginning import offer_beginning

    # The database may have been started again since it was asked last.
    connection.close()
    secret = offer_beginning()
    if secret is None:
        print(f"\nNomothet is at {address}\n\nCtrl-C stops everything.", flush=True)
        return
    print(f"\nNomothet is at {address}\n\nNobody can sign in yet. Open this to name the team and its first admin:")
    print(f"{address}/begin#{secret}")
    print(
        "(`nomothet-server create-admin NAME` does the same at the terminal.)\n\nCtrl-C stops everything.", flush=True
    )


def greet(address: str, sign_ins: dict[str, str], scenario: Scenario) -> None:
    """Say where it is and who may sign in; passwords are told when they are made, and kept nowhere."""
    print(f"\nNomothet is at {address}\n\nDemo sign-ins:")
    for person in scenario.people:
        print(f"  {person.username:<8} {sign_ins.get(person.username, ''):<40} {person.display_name}, {person.role}")
    if sign_ins:
        print("The passwords are told this once; ./start --new-sign-ins makes others.")
    else:
        print("Their passwords were told at the first start; ./start --new-sign-ins makes others.")
    print("\nCtrl-C stops everything.", flush=True)


if __name__ == "__main__":
    sys.exit(main())
