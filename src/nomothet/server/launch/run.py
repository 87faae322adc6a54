"""The parts of a running installation, started in order."""

import os
import sys
import threading
import time
from pathlib import Path

import httpx

from nomothet.server.demo.scenario import Scenario
from nomothet.server.launch.children import Child
from nomothet.server.launch.errors import LaunchError
from nomothet.server.launch.secrets import passphrase

_READY_S = 30.0
_LOOK_S = 0.3


class Installation:
    """Server and benches of one `var/` folder."""

    def __init__(self, var: Path, port: int, database_port: int) -> None:
        self.address = f"http://127.0.0.1:{port}"
        self._port = port
        self._var = var
        self._logs = var / "logs"
        self._logs.mkdir(parents=True, exist_ok=True)
        self._environment = {
            "NOMOTHET_VAR": str(var),
            "NOMOTHET_DATABASE_PORT": str(database_port),
            "DJANGO_SETTINGS_MODULE": "nomothet.server.settings",
        }
        # Present once the demo's passes have run and its team has done what it did.
        self._demo_done = var / "demo-done"
        self._children: list[Child] = []
        self._server: Child | None = None

    def migrate(self) -> None:
        """Bring the database's tables up to date; Django is set up in this process from here on."""
        os.environ.update(self._environment)
        import django
        from django.core.management import call_command

        django.setup()
        call_command("migrate", verbosity=0, interactive=False)

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

    def start_server(self, over: threading.Event) -> None:
        """Start the web server and wait until it is well.

        Raises
        ------
        LaunchError
            With the end of the server's log.
        """
        command = [
            sys.executable, "-m", "uvicorn", "nomothet.server.asgi:application", "--host", "127.0.0.1",
            "--port", str(self._port), "--lifespan", "off", "--timeout-graceful-shutdown", "3", "--no-access-log",
            "--log-config", str(Path(__file__).with_name("uvicorn.json")),
        ]  # fmt: skip
        log = self._logs / "server.log"
        self._server = self._start("server", command, log)
        deadline = time.monotonic() + _READY_S
        while not self._is_well():
            if over.is_set() or not self._server.running or time.monotonic() > deadline:
                end = "\n".join(log.read_text(errors="replace").splitlines()[-12:])
                raise LaunchError(f"The server did not start. The end of {log.name}:\n{end}")
            time.sleep(0.1)

    def start_worker(self) -> None:
        """Start the process that does heavy work in the background, and queue what is left to do.

        That is what an earlier one was killed over, and passes computed by an earlier version of the method.
        """
        from nomothet.server.analysis.tasks import recompute_old
        from nomothet.server.findings.tasks import prepare_all_findings
        from nomothet.server.foreign import tasks as foreign
        from nomothet.server.imports import tasks as imports
        from nomothet.server.matrix.tasks import prepare_all

        imports.take_up_again()
        foreign.take_up_again()
        recompute_old.enqueue()
        prepare_all.enqueue()
        prepare_all_findings.enqueue()
        command = [sys.executable, "-m", "django", "db_worker", "--interval", "1", "--no-startup-delay", "--no-reload"]
        self._start("worker", command, self._logs / "worker.log")

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
            running = [self._start_bench(key, token, [*model, *past]) for key, token, model in benches if model]
            while any(child.running for child in running) and not over.wait(_LOOK_S):
                pass
            if over.is_set():
                return
            finish_scenario(scenario)
            self._demo_done.touch()
        for key, token, simulate in benches:
            self._start_bench(key, token, [*simulate, "--speed", "12"] if simulate else [])

    def _start_bench(self, key: str, token: str, options: list[str]) -> Child:
        command = [sys.executable, "-m", "nomothet.cli.main", "bench", "--server", self.address]
        command += ["--spool", str(self._var / "benches" / key), *options]
        # A token in the arguments could be read by everybody on the machine; the environment cannot.
        return self._start(f"bench {key}", command, self._logs / f"bench-{key}.log", {"NOMOTHET_BENCH_TOKEN": token})

    def wait(self, over: threading.Event) -> int:
        """Until a signal comes; a server that ends by itself is an error, a bench that does is reported once."""
        told: set[str] = set()
        while not over.wait(_LOOK_S):
            for child in self._children:
                if child.running or child.exit_code == 0 or child.name in told:
                    continue
                if child is self._server:
                    raise LaunchError(f"The server ended with status {child.exit_code}; see {self._logs}/server.log.")
                told.add(child.name)
                print(f"nomothet: {child.name} ended with status {child.exit_code}; see {self._logs}", flush=True)
        print("\nStopping.", flush=True)
        return 0

    def stop(self) -> None:
        """Stop benches, then the server."""
        for child in reversed(self._children):
            child.stop()

    def _start(self, name: str, command: list[str], log: Path, extra: dict[str, str] | None = None) -> Child:
        child = Child.start(name, command, environment={**self._environment, **(extra or {})}, log=log)
        self._children.append(child)
        return child

    def _is_well(self) -> bool:
        try:
            return httpx.get(f"{self.address}/health", timeout=2).status_code == 200
        except httpx.HTTPError:
            return False
