"""A database and a server of their own for a measurement, in a folder that goes away afterwards."""

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path

import httpx

from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.ports import free_port
from nomothet.server.launch.secrets import ensure_secrets
from nomothet.server.launch.serve import listening

PROJECT = Path(__file__).resolve().parents[1]
_READY_S = 30.0


@dataclass(frozen=True)
class Private:
    """Where it answers, its folder, and the environment of its processes."""

    address: str
    var: Path
    environment: dict[str, str]
    # Of the server's processes.
    pids: tuple[int, ...] = ()

    def script(self, text: str) -> str:
        """Run some lines with Django set up; returns what they print."""
        text = f"import django; django.setup()\n{text}"
        return subprocess.run(
            [sys.executable, "-c", text], env=self.environment, cwd=PROJECT, capture_output=True, text=True, check=True
        ).stdout

    @contextmanager
    def worker(self) -> Iterator[None]:
        """A worker beside the server, once it shows signs of life."""
        text = "from nomothet.server.upkeep.worker import main; main()"
        with (self.var / "worker.log").open("ab") as log:
            worker = subprocess.Popen([sys.executable, "-c", text], env=self.environment, stdout=log, stderr=log)
        try:
            deadline = time.monotonic() + _READY_S
            while httpx.get(f"{self.address}/health", timeout=5).json()["parts"]["worker"] != "well":
                if time.monotonic() > deadline:
                    raise SystemExit("the worker did not start")
                time.sleep(0.1)
            yield
        finally:
            worker.terminate()
            worker.wait()


@contextmanager
def private_server(processes: int = 1) -> Iterator[Private]:
    """A fresh database with its tables, and a server on it, whose log is gone with it."""
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        Path(folder).chmod(0o755)
        var = Path(folder) / "var"
        var.mkdir(mode=0o755)
        database = PrivateDatabase(var / "database", free_port(), ensure_secrets(var))
        port = free_port()
        environment = {
            **os.environ,
            "NOMOTHET_VAR": str(var),
            "NOMOTHET_DATABASE_PORT": str(database.port),
            "DJANGO_SETTINGS_MODULE": "nomothet.server.settings",
        }
        database.start()
        made = Private(f"http://127.0.0.1:{port}", var, environment)
        made.script("from django.core.management import call_command; call_command('migrate', verbosity=0)")
        with listening(port) as opened:
            handed = opened.fileno()
            command = [sys.executable, "-m", "nomothet.server.launch.serve", "--fd", str(handed)]
            log = (var / "server.log").open("ab")
            servers = [
                subprocess.Popen(command, env=environment, stdout=log, stderr=log, pass_fds=[handed])
                for _ in range(processes)
            ]
            try:
                _wait(made.address)
                yield replace(made, pids=tuple(server.pid for server in servers))
            finally:
                for server in servers:
                    server.terminate()
                for server in servers:
                    server.wait()
                database.stop()


def _wait(address: str) -> None:
    deadline = time.monotonic() + _READY_S
    while time.monotonic() < deadline:
        try:
            if httpx.get(f"{address}/health", timeout=2).status_code == 200:
                return
        except httpx.HTTPError:
            time.sleep(0.1)
    raise SystemExit("the server did not start")
