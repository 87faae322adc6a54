"""The parts of a running installation, started in order and kept running."""

import os
import socket
import sys
import threading
import time
from collections.abc import Callable
from functools import cached_property
from pathlib import Path

import httpx

from nomothet.server.demo.scenario import Scenario
from nomothet.server.launch.children import Child
from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.errors import LaunchError
from nomothet.server.launch.forked import ForkedChild
from nomothet.server.launch.keeping import KeptPart
from nomothet.server.launch.secrets import passphrase
from nomothet.server.launch.serve import listening, serve
from nomothet.server.reading_code import read_answers, reading

# What ends by itself is noticed sooner.
_READY_S = 120.0
_LOOK_S = 0.3
# A part that ends by itself so often before it was ever ready will not be; once may be for want of the database.
_MOST_ENDS = 2


class Installation:
    """What runs of one `var/` folder: database, server, worker and benches, or some of them.

    Parameters
    ----------
    processes : int
        How many processes answer requests.
    """

    def __init__(self, var: Path, port: int, database_port: int, processes: int = 1) -> None:
        self.address = f"http://127.0.0.1:{port}"
        self._port = port
        self._var = var
        self._processes = processes
        self._logs = var / "logs"
        self._logs.mkdir(parents=True, exist_ok=True)
        self._environment = {
            "NOMOTHET_VAR": str(var),
            "NOMOTHET_DATABASE_PORT": str(database_port),
            "DJANGO_SETTINGS_MODULE": "nomothet.server.settings",
        }
        # Present once the demo's passes have run and its team has done what it did.
        self._demo_done = var / "demo-done"
        self._parts: list[KeptPart] = []
        self._socket: socket.socket | None = None
        self._database: PrivateDatabase | None = None

    def start_database(self, database: PrivateDatabase) -> None:
        """Start a database of its own, and read the code while it starts; from here on it is started again when it
        ends.

        Raises
        ------
        LaunchError
        """
        self._database = database
        self._keep(KeptPart("the database", lambda: database.started(self.read_code), log=database.log))

    def read_code(self) -> None:
        """Set Django up in this process, and read what server and worker need: they begin as copies of it."""
        os.environ.update(self._environment)
        with reading():
            import django

            django.setup()
            read_answers()

    def wait_for_database(self, over: threading.Event) -> None:
        """Wait until a database answers that something else starts.

        Raises
        ------
        LaunchError
        """
        from django.db import OperationalError, connection

        deadline = time.monotonic() + _READY_S
        while not over.is_set():
            try:
                connection.ensure_connection()
                return
            except OperationalError as error:
                if time.monotonic() > deadline:
                    raise LaunchError(f"The database cannot be reached ({error}).") from None
                time.sleep(0.3)

    def wait_for_tables(self, over: threading.Event) -> None:
        """Wait until the tables are those of this version."""
        from django.db import DatabaseError, connection

        from nomothet.server.upkeep.schema_state import schema_state

        while not over.is_set():
            try:
                if not schema_state().missing:
                    return
            except DatabaseError:
                # It may be away for a moment; a broken connection is made anew.
                connection.close()
            over.wait(1)

    def load_demo(self, scenario: Scenario, *, anew: bool) -> dict[str, str]:
        """Load the demo into an empty database; returns the passwords of its people, where they were made just now.

        Parameters
        ----------
        anew : bool
            Whether the people of a demo that is there get new passwords.
        """
        from nomothet.server.demo.load import load_scenario, renew_sign_ins

        sign_ins = {username: passphrase() for username in scenario.usernames}
        if load_scenario(scenario, sign_ins):
            self._demo_done.unlink(missing_ok=True)
            return sign_ins
        return renew_sign_ins(sign_ins) if anew else {}

    def start_server(self) -> None:
        """Start the processes of the web server.

        They share a socket that this process holds: when one ends, the others answer, and when all do, requests wait.
        """
        self._socket = listening(self._port)
        log = self._log("server")
        for number in range(self._processes):
            name = "the server" if self._processes == 1 else f"server process {number + 1}"
            self._keep(KeptPart(name, lambda: self._forked("nomothet server", self._serve, log), log=log))

    def start_worker(self) -> None:
        """Start the process that does heavy work in the background."""
        log = self._log("worker")
        self._keep(KeptPart("the worker", lambda: self._forked("nomothet worker", self._work, log), log=log))

    def wait_for_server(self, over: threading.Event) -> None:
        """Wait until the server answers.

        Raises
        ------
        LaunchError
            With the end of its log.
        """
        self._wait_until(self._answers, over, self._log("server"), "The server did not start.")

    def wait_for_worker(self, over: threading.Event) -> None:
        """Wait until the worker shows signs of life.

        Raises
        ------
        LaunchError
            With the end of its log.
        """
        self._wait_until(self._works, over, self._log("worker"), "The worker did not start.")

    def start_benches(self, demo: Path, over: threading.Event, scenario: Scenario) -> None:
        """Start a bench for this machine and one for every simulated system of the demo.

        In a fresh demo, simulated benches first run what is owed as fast as they can, and the demo's team then does
        what it did.
        """
        from nomothet.server.demo.load import finish_scenario
        from nomothet.server.systems.commands import issue_demo_token
        from nomothet.server.systems.models import System

        benches = []
        for system in System.objects.order_by("pk"):
            model = demo / "simulated" / f"{system.key}.toml"
            if model.exists() if system.simulated else system.key == "this-machine":
                token = issue_demo_token(system)
                benches.append((system.key, token, ["--simulate", str(model)] if system.simulated else []))
        if not self._demo_done.exists():
            print("Running the demo's passes on its simulated machines; this happens once.", flush=True)
            past = ["--speed", "0", "--until-idle"]
            for key, token, options in benches:
                if options:
                    self._keep(self._bench(key, token, [*options, *past]))
            running = self._parts[-sum(bool(options) for *_, options in benches) :]
            while any(part.child and part.child.exit_code != 0 for part in running) and not over.wait(_LOOK_S):
                self._look()
            if over.is_set():
                return
            self._parts = [part for part in self._parts if part not in running]
            finish_scenario(scenario)
            self._demo_done.touch()
        for key, token, simulate in benches:
            self._keep(self._bench(key, token, [*simulate, "--speed", "12"] if simulate else []))

    def wait(self, over: threading.Event) -> int:
        """Until a signal comes; a part that ends by itself is started again."""
        while not over.wait(_LOOK_S):
            self._look()
        print("\nStopping.", flush=True)
        return 0

    def stop(self) -> None:
        """Stop benches, then worker and server, then the database."""
        for part in reversed(self._parts):
            if self._database is None or part.child is not self._database.child:
                part.stop()
        if self._socket is not None:
            self._socket.close()
        if self._database is not None:
            self._database.stop()

    def _log(self, name: str) -> Path:
        return self._logs / f"{name}.log"

    def _look(self) -> None:
        for part in self._parts:
            part.look()

    def _keep(self, part: KeptPart) -> None:
        self._parts.append(part)
        part.start()

    def _bench(self, key: str, token: str, options: list[str]) -> KeptPart:
        command = [sys.executable, "-m", "nomothet.cli.main", "bench", "--server", self.address]
        command += ["--spool", str(self._var / "benches" / key), *options]
        log = self._log(f"bench-{key}")
        # A token in the arguments could be read by everybody on the machine; the environment cannot.
        environment = {**self._environment, "NOMOTHET_BENCH_TOKEN": token}
        return KeptPart(
            f"bench {key}",
            lambda: Child.start(command[2], command, environment=environment, log=log),
            may_end=True,
            log=log,
        )

    def _forked(self, name: str, run: Callable[[], None], log: Path) -> ForkedChild:
        from django.db import connections

        # A connection that two processes share would mix what they say.
        connections.close_all()
        return ForkedChild.start(name, run, log=log)

    def _serve(self) -> None:
        assert self._socket is not None
        serve(self._socket)

    def _work(self) -> None:
        if self._socket is not None:
            # Where it outlives launcher and servers for a moment, the port is free.
            self._socket.close()
        from nomothet.server.upkeep.worker import main

        main()

    def _wait_until(self, ready: Callable[[], bool], over: threading.Event, log: Path, otherwise: str) -> None:
        """Wait for the parts that write this log; what is killed meanwhile, of them or others, is started again."""
        parts, deadline = [part for part in self._parts if part.log == log], time.monotonic() + _READY_S
        while not ready():
            self._look()
            gave_up = any(part.own_ends >= _MOST_ENDS for part in parts)
            if over.is_set() or gave_up or time.monotonic() > deadline:
                end = "\n".join(log.read_text(errors="replace").splitlines()[-12:])
                raise LaunchError(f"{otherwise} The end of {log.name}:\n{end}")
            time.sleep(0.1)

    @cached_property
    def _http(self) -> httpx.Client:
        # One for all questions: to make one reads all certificates that there are.
        return httpx.Client(base_url=self.address, timeout=2)

    def _answers(self) -> bool:
        return self._state_of("database") == self._state_of("schema") == "well"

    def _works(self) -> bool:
        return self._state_of("worker") == "well"

    def _state_of(self, part: str) -> str:
        try:
            told = self._http.get("/health").json()
        except (httpx.HTTPError, ValueError):
            return ""
        return str(told.get("parts", {}).get(part, ""))
