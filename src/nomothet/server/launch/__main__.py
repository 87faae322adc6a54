"""`./start` after set-up: database, migrations, demo, server, benches; until Ctrl-C."""

import argparse
import contextlib
import json
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
    return parser.parse_args()


def _run(arguments: argparse.Namespace, var: Path, over: threading.Event, stack: contextlib.ExitStack) -> int:
    require_free(arguments.port, "the application", "--port")
    require_free(arguments.database_port, "the database", "--database-port")
    if arguments.fresh:
        for part in ("database", "benches", "imports"):
            shutil.rmtree(var / part, ignore_errors=True)
    scenario = Scenario.read(PROJECT / "demo")
    sign_ins = ensure_secrets(var, scenario.usernames)
    password = _database_password(var)
    database = PrivateDatabase(var / "database", arguments.database_port, password)
    print("Starting the database.", flush=True)
    database.start()
    stack.callback(database.stop)
    installation = Installation(var, arguments.port, arguments.database_port)
    installation.migrate()
    installation.load_demo(scenario, sign_ins)
    print("Starting the server.", flush=True)
    stack.callback(installation.stop)
    installation.start_server(over)
    installation.start_worker()
    if not arguments.no_benches:
        installation.start_benches(PROJECT / "demo", over, scenario)
    if not over.is_set():
        _greet(installation.address, sign_ins, scenario)
    return installation.wait(over)


def _database_password(var: Path) -> str:
    return str(json.loads((var / "secrets.json").read_text())["database_password"])


def _greet(address: str, sign_ins: dict[str, str], scenario: Scenario) -> None:
    print(f"\nNomothet is at {address}\n\nDemo sign-ins:")
    for person in scenario.people:
        print(f"  {person.username:<8} {sign_ins[person.username]:<40} {person.display_name}, {person.role}")
    print("\nCtrl-C stops everything.", flush=True)


if __name__ == "__main__":
    sys.exit(main())
