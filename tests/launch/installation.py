"""An installation of a test's own: a database in a folder that goes away, and commands and scripts on it."""

import os
import signal
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import psutil

from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.ports import free_port
from nomothet.server.launch.secrets import ensure_secrets

DEADLINE_S = 240.0
PROJECT = Path(__file__).resolve().parents[2]
_OF_OTHERS = ("NOMOTHET_DATABASE_PORT", "NOMOTHET_DATABASE_NAME", "NOMOTHET_BACKUP_PASSPHRASE")


def folder_for(tests: type[unittest.TestCase]) -> Path:
    """A folder for an installation, which the database's account can reach; gone after the tests of a class."""
    folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
    tests.addClassCleanup(folder.cleanup)
    Path(folder.name).chmod(0o755)
    var = Path(folder.name) / "var"
    var.mkdir(mode=0o755)
    return var


def environment_of(var: Path, port: int, **extra: str) -> dict[str, str]:
    """The environment of processes of an installation."""
    rest = {key: value for key, value in os.environ.items() if key not in _OF_OTHERS}
    own = {"NOMOTHET_VAR": str(var), "NOMOTHET_DATABASE_PORT": str(port)}
    return {**rest, **own, "DJANGO_SETTINGS_MODULE": "nomothet.server.settings", **extra}


def run_script(text: str, var: Path, port: int) -> str:
    """Run some lines with Django set up; gives what they print."""
    done = subprocess.run(
        [sys.executable, "-c", f"import django; django.setup()\n{text}"],
        env=environment_of(var, port), cwd=PROJECT, capture_output=True, text=True, check=False,
    )  # fmt: skip
    if done.returncode != 0:
        raise AssertionError(done.stderr[-3000:])
    return done.stdout


def command(words: list[str], var: Path, port: int, **extra: str) -> "subprocess.CompletedProcess[str]":
    """Run `nomothet-server`."""
    return subprocess.run(
        [sys.executable, "-m", "nomothet.server.launch.terminal", "--database-port", str(port), *words],
        env=environment_of(var, port, **extra), cwd=PROJECT, capture_output=True, text=True, check=False,
    )  # fmt: skip


def processes_of(var: Path) -> dict[int, str]:
    """Command lines of the processes that work on a folder, by process; of those that begin as a copy of their parent
    the name."""
    found = {}
    for process in psutil.process_iter():
        try:
            line, name = " ".join(process.cmdline()), process.name()
            if str(var) in line or process.environ().get("NOMOTHET_VAR") == str(var):
                found[process.pid] = name if name.startswith("nomothet ") else line
        except psutil.Error:
            continue
    return found


def prepare(var: Path) -> None:
    """Put a database with empty tables, and its secrets, into a folder; the runner has made it once for all tests."""
    for part in ("database", "secrets.json"):
        # With owners and times, which the library's copying leaves out.
        subprocess.run(["cp", "-a", Path(os.environ["NOMOTHET_TEST_TEMPLATE"]) / part, var / part], check=True)


class WithDatabase(unittest.TestCase):
    """Tests on a database that they share, with its tables and whatever `made_by` makes in it."""

    made_by = ""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.var = folder_for(cls)
        prepare(cls.var)
        cls.database = cls.started(cls.var)
        cls.script(cls.made_by)

    @classmethod
    def started(cls, var: Path) -> PrivateDatabase:
        """A database in a folder, which ends with the tests."""
        database = PrivateDatabase(var / "database", free_port(), ensure_secrets(var))
        database.start()
        cls.addClassCleanup(database.stop)
        return database

    @classmethod
    def script(cls, text: str) -> str:
        return run_script(text, cls.var, cls.database.port)

    @classmethod
    def server(cls, *words: str, **extra: str) -> "subprocess.CompletedProcess[str]":
        return command(list(words), cls.var, cls.database.port, **extra)


class StartedInstallation(unittest.TestCase):
    """What `./start` starts, in a folder of its own."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        self.addCleanup(folder.cleanup)
        self.var = Path(folder.name) / "var"
        Path(folder.name).chmod(0o755)
        self.port, self.database_port = free_port(), free_port()
        self.var.mkdir()
        prepare(self.var)

    def launch(self, *options: str) -> "subprocess.Popen[str]":
        environment = {**os.environ, "NOMOTHET_VAR": str(self.var)}
        for name in ("NOMOTHET_DATABASE_PORT", "NOMOTHET_DATABASE_NAME"):
            environment.pop(name, None)
        process = subprocess.Popen(
            [
                sys.executable, "-m", "nomothet.server.launch", "--no-benches", "--port", str(self.port),
                "--database-port", str(self.database_port), *options,
            ],
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )  # fmt: skip
        self.addCleanup(self.end, process)
        return process

    @staticmethod
    def end(process: "subprocess.Popen[str]") -> str:
        if process.poll() is None:
            process.send_signal(signal.SIGINT)
        try:
            output, _ = process.communicate(timeout=DEADLINE_S)
        except (subprocess.TimeoutExpired, ValueError):
            process.kill()
            raise
        return output

    def read_until(self, process: "subprocess.Popen[str]", words: str) -> str:
        assert process.stdout is not None
        text = ""
        for line in process.stdout:
            text += line
            if words in line:
                return text
        raise AssertionError(f"ended without {words!r}:\n{text}")

    def end_by_itself(self, process: "subprocess.Popen[str]") -> str:
        output, _ = process.communicate(timeout=DEADLINE_S)
        return output
