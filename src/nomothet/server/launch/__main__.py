"""`./start` after set-up: database, migrations, demo, server, benches; until Ctrl-C."""

import argparse
import contextlib
import os
import shutil
import signal
import sys
import threading
from pathlib import Path

from nomothet.server.demo.scenario import Scenario
from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.errors import LaunchError
from nomothet.server.launch.ports import require_free
from nomothet.server.launch.run import Installation
from nomothet.server.launch.secrets import ensure_secrets

PROJECT = Path(__file__).resolve().parents[4]


def main() -> int:
    """Run everything until a signal comes or the server ends."""
    arguments = _arguments()
    var = Path(os.environ.get("NOMOTHET_VAR", PROJECT / "var"))
    over = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda _number, _frame: over.set())
    try:
        with contextlib.ExitStack() as stack:
            return _run(arguments, var, over, stack)
    except LaunchError as error:
        print(f"nomothet: {error}", file=sys.stderr)
        return 1


def _arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="./start", add_help=False, usage="./start --help")
    parser.add_argument("--fresh", action="store_true")
    parser.add_argument("--port", type=int, default=8420)
    parser.add_argument("--database-port", type=int, default=8421)
    parser.add_argument("--no-benches", action="store_true")
    parser.add_argument("--new-sign-ins", action="store_true")
    return parser.parse_args()


def _run(arguments: argparse.Namespace, var: Path, over: threading.Event, stack: contextlib.ExitStack) -> int:
    require_free(arguments.port, "the application", "--port")
    require_free(arguments.database_port, "the database", "--database-port")
    if arguments.fresh:
        for part in ("database", "benches", "imports"):
            shutil.rmtree(var / part, ignore_errors=True)
    scenario = Scenario.read(PROJECT / "demo")
    database = PrivateDatabase(var / "database", arguments.database_port, ensure_secrets(var))
    print("Starting the database.", flush=True)
    database.start()
    stack.callback(database.stop)
    installation = Installation(var, arguments.port, arguments.database_port)
    installation.migrate()
    sign_ins = installation.load_demo(scenario, anew=arguments.new_sign_ins)
    print("Starting the server.", flush=True)
    stack.callback(installation.stop)
    installation.start_server(over)
    installation.start_worker()
    if not arguments.no_benches:
        installation.start_benches(PROJECT / "demo", over, scenario)
    if not over.is_set():
        greet(installation.address, sign_ins, scenario)
    return installation.wait(over)


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
