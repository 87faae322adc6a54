"""Parts that end by themselves are started again, with a pause that grows; whoever asks meanwhile is answered."""

import os
import signal
import sys
import threading
import time
import unittest
from collections.abc import Callable

import httpx

from nomothet.server.launch.children import Child
from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.errors import LaunchError
from nomothet.server.launch.keeping import KeptPart
from nomothet.server.launch.secrets import ensure_secrets
from tests.launch.installation import StartedInstallation, command, processes_of, run_script

_DEADLINE_S = 60.0


class Pauses(unittest.TestCase):
    def setUp(self) -> None:
        self.now = 0.0
        self.said: list[str] = []
        self.started = 0
        self.refuses = False

    def part(self, may_end: bool = False, status: int = 1) -> KeptPart:
        def start() -> Child:
            if self.refuses:
                raise LaunchError("no room")
            self.started += 1
            child = Child.start("ends", [sys.executable, "-c", f"raise SystemExit({status})"])
            while child.running:
                time.sleep(0.005)
            return child

        part = KeptPart("the part", start, may_end=may_end, say=self.said.append, clock=lambda: self.now)
        part.start()
        return part

    def pause(self, part: KeptPart) -> float:
        """How long it takes until an ended part is begun again."""
        part.look()
        before, begun = self.started, self.now
        while self.started == before:
            self.now += 0.25
            part.look()
        return self.now - begun

    def test_the_pause_doubles_up_to_five_seconds_and_is_short_again_after_a_steady_run(self) -> None:
        part = self.part()
        self.assertEqual([self.pause(part) for _ in range(7)], [0.5, 1, 2, 4, 5, 5, 5])
        self.now += 21
        self.assertEqual(self.pause(part), 0.5)
        self.assertIn("the part ended with status 1; it is started again in 0.5 s", self.said[0])
        self.assertIn("the part runs again", self.said[1])

    def test_one_that_may_end_is_left_when_all_went_well(self) -> None:
        part = self.part(may_end=True, status=0)
        part.look()
        self.now += 100
        part.look()
        self.assertEqual((self.started, self.said), (1, []))
        self.assertEqual(self.pause(self.part(may_end=True, status=3)), 0.5)

    def test_one_that_cannot_be_started_is_tried_again_and_says_why(self) -> None:
        part = self.part()
        part.look()
        self.refuses = True
        self.now += 0.5
        part.look()
        self.assertIn("did not start: no room; it is started again in 1 s", self.said[-1])
        self.refuses = False
        self.assertEqual(self.pause(part), 1.0)


class Supervision(StartedInstallation):
    """A whole installation without the demo."""

    def pids(self, words: str) -> list[int]:
        return [pid for pid, line in processes_of(self.var).items() if words in line]

    def kill(self, words: str) -> None:
        """Kill the processes of a part, and wait until others are there."""
        before = self.pids(words)
        self.assertTrue(before, words)
        for pid in before:
            os.kill(pid, signal.SIGKILL)
        self.wait(lambda: len(set(self.pids(words)) - set(before)) >= len(before), words)

    def wait(self, ready: Callable[[], bool], what: str) -> None:
        deadline = time.monotonic() + _DEADLINE_S
        while not ready():
            self.assertLess(time.monotonic(), deadline, what)
            time.sleep(0.05)

    def health(self) -> dict[str, object]:
        return dict(httpx.get(f"http://127.0.0.1:{self.port}/health", timeout=_DEADLINE_S).json())

    def test_every_part_comes_back_by_itself_and_no_request_is_turned_away(self) -> None:
        process = self.launch("--without-demo", "--processes", "2")
        text = self.read_until(process, "Ctrl-C stops everything")
        self.assertIn("create-admin", text)
        # Nobody can sign in yet; the address at which the first admin is made is told.
        self.assertIn(f"http://127.0.0.1:{self.port}/begin#", text)
        self.assertNotIn("Demo", text)
        said: list[str] = []
        assert process.stdout is not None
        reader = threading.Thread(target=lambda: said.extend(process.stdout or ()), daemon=True)
        reader.start()
        refused: list[str] = []
        over = threading.Event()
        asking = threading.Thread(target=self.ask_all_the_time, args=(over, refused))
        asking.start()
        try:
            for words in ("nomothet server", "nomothet worker", "mariadbd"):
                with self.subTest(words):
                    self.kill(words)
                    self.wait(lambda: self.health()["status"] == "well", words)
        finally:
            over.set()
            asking.join()
        self.assertEqual(refused, [])
        made = command(["create-admin", "nora", "Nora Vale"], self.var, self.database_port)
        self.assertIn("/welcome#", made.stdout, made.stderr)
        process.send_signal(signal.SIGINT)
        process.wait(_DEADLINE_S)
        reader.join(_DEADLINE_S)
        for part in ("server process 1", "server process 2", "the worker", "the database"):
            self.assertIn(f"{part} ended with status -9", "".join(said))
            self.assertIn(f"{part} runs again", "".join(said))

    def test_what_is_killed_while_it_starts_is_started_again_too(self) -> None:
        process = self.launch("--without-demo", "--processes", "2")
        self.read_until(process, "Starting the server")
        for words in ("mariadbd", "nomothet server", "nomothet worker"):
            self.wait(lambda words=words: bool(self.pids(words)), words)  # type: ignore[misc]
            self.kill(words)
        text = self.read_until(process, "Ctrl-C stops everything")
        # What was killed when all was up already is told of after that.
        for part in ("the database", "server process", "the worker"):
            while f"{part} " not in text:
                text += self.read_until(process, "runs again")
        self.wait(lambda: self.health()["status"] == "well", "all parts")

    def ask_all_the_time(self, over: threading.Event, refused: list[str]) -> None:
        """Ask for a page that needs no database; what is being answered when its process is killed may break off."""
        # Each time by a connection of its own: it is those that would be refused.
        anew = httpx.Limits(max_keepalive_connections=0)
        with httpx.Client(base_url=f"http://127.0.0.1:{self.port}", timeout=_DEADLINE_S, limits=anew) as client:
            while not over.wait(0.01):
                try:
                    client.get("/reviews")
                except httpx.ConnectError as error:
                    refused.append(str(error))
                except httpx.HTTPError:
                    continue

    def test_tables_are_changed_after_a_backup_those_of_a_newer_version_never_and_fresh_asks(self) -> None:
        self.on_the_database(_OLDER)
        process = self.launch("--without-demo")
        self.assertIn("Making a backup before a change", self.read_until(process, "Ctrl-C stops everything"))
        kept = [path.name for path in (self.var / "backups").iterdir()]
        self.assertEqual([name.partition("Z")[2] for name in kept], ["-before-changes"])
        run_script(_NEWER, self.var, self.database_port)
        process.send_signal(signal.SIGINT)
        process.wait(_DEADLINE_S)
        newer = self.launch("--without-demo")
        said = self.end_by_itself(newer)
        self.assertEqual(newer.returncode, 1)
        self.assertIn("newer version of Nomothet (it has reviews 9999_later", said)
        fresh = self.launch("--without-demo", "--fresh")
        said = self.end_by_itself(fresh)
        self.assertEqual(fresh.returncode, 1)
        self.assertIn("--fresh --yes", said)
        self.assertTrue((self.var / "database" / "data").is_dir())
        sure = self.launch("--without-demo", "--fresh", "--yes")
        self.read_until(sure, "Ctrl-C stops everything")
        self.assertEqual([path.name for path in (self.var / "backups").iterdir()], kept)

    def on_the_database(self, script: str) -> None:
        database = PrivateDatabase(self.var / "database", self.database_port, ensure_secrets(self.var))
        database.start()
        try:
            run_script(script, self.var, self.database_port)
        finally:
            database.stop()


_NEWER = """
from django.db import connection
from django.db.migrations.recorder import MigrationRecorder
MigrationRecorder(connection).record_applied("reviews", "9999_later")
"""
# The tables of before the last app.
_OLDER = """
from django.core.management import call_command
call_command("migrate", "upkeep", "zero", verbosity=0)
"""
