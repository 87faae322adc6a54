"""`nomothet-server`: an admin is made and a password offered from the terminal, by links that work once."""

import io
import os
import re
import signal
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from unittest.mock import patch

from django.test import override_settings
from django.utils import timezone

from nomothet.server.launch.ports import free_port
from nomothet.server.launch.terminal import main
from nomothet.server.passes.models import Series
from nomothet.server.passes.outside import put
from nomothet.server.people.models import SecurityEvent, User
from nomothet.server.reviews.models import Review
from tests.server.base import PASSWORD, Browser, SceneTest, steady
from tests.server.object_store import ObjectStore
from tests.server.test_outside import told_of

NEW = "lantern-orchard-weir-37"


class TerminalTest(SceneTest):
    def run_it(self, *words: str, status: int = 0) -> str:
        out = io.StringIO()
        with redirect_stdout(out), redirect_stderr(out):
            self.assertEqual(main([*words]), status)
        return out.getvalue()


class Terminal(TerminalTest):
    def set_by(self, told: str) -> None:
        secret = re.findall(r"/welcome#(\S+)", told)[0]
        body = {"secret": secret, "password": NEW}
        self.assertEqual(Browser().send("put", "/api/welcome", body).status_code, 200)

    def test_an_admin_is_made_and_signs_in(self) -> None:
        self.set_by(self.run_it("--address", "https://reviews.example", "create-admin", "nora", "Nora Vale"))
        browser = Browser()
        answer = browser.send("post", "/api/session", {"username": "nora", "password": NEW})
        self.assertIn("manage_people", answer.json()["may"])
        self.assertEqual(list(SecurityEvent.objects.values_list("kind", flat=True))[-1], "invited")

    def test_a_password_is_offered_again(self) -> None:
        self.set_by(self.run_it("reset", "editor"))
        self.assertTrue(User.objects.get(username="editor").check_password(NEW))
        self.problem(Browser().send("post", "/api/session", {"username": "editor", "password": PASSWORD}), 401)

    def test_as_a_program_of_its_own_it_starts_and_says_what_it_lacks(self) -> None:
        environment = {name: value for name, value in os.environ.items() if name != "NOMOTHET_DATABASE_PORT"}
        environment.pop("DJANGO_SETTINGS_MODULE", None)
        words = ["--database-port", str(free_port()), "create-admin", "nora"]
        command = [sys.executable, "-m", "nomothet.server.launch.terminal", *words]
        done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 1, done.stderr)
        self.assertIn("Is ./start running?", done.stderr)
        self.assertEqual(len(done.stderr.splitlines()), 1)

    def test_mistakes_are_told_in_a_line(self) -> None:
        self.assertIn("The name editor is taken", self.run_it("create-admin", "editor", status=1))
        self.assertIn("There is no nobody", self.run_it("reset", "nobody", status=1))
        self.assertIn("lower-case letters", self.run_it("create-admin", "No Name", status=1))


class MovingCaptures(TerminalTest):
    def setUp(self) -> None:
        super().setUp()
        self.store = self.enterContext(ObjectStore())
        self.scene.owe(count=2)
        for seed in range(2):
            self.bench.deliver(steady(60, seed=seed))

    def test_they_go_and_come_back_and_it_says_how_many(self) -> None:
        with override_settings(STORAGES=told_of(self.store.address)):
            self.assertIn("0 captures moved", self.run_it("move-captures", "store", "--older-than", "3"))
            self.assertIn("2 captures moved", self.run_it("move-captures", "store"))
            self.assertEqual(Series.objects.exclude(stored_as="").count(), 2)
            self.assertIn("2 captures moved", self.run_it("move-captures", "database"))
        self.assertEqual(Series.objects.exclude(stored_as="").count(), 0)

    def test_archived_reviews_are_put_away_and_others_got_out(self) -> None:
        self.assertIn("Nothing to put away", self.run_it("put-away"))
        Review.objects.update(archived_at=timezone.now())
        self.assertIn("2 captures put away", self.run_it("put-away"))
        self.assertEqual(Series.objects.filter(pack=None).count(), 0)
        Review.objects.update(archived_at=None)
        self.assertIn("2 captures got out", self.run_it("put-away"))
        self.assertEqual(Series.objects.filter(pack=None).count(), 2)

    def test_without_a_store_it_says_what_is_missing(self) -> None:
        self.assertIn("NOMOTHET_S3_BUCKET", self.run_it("move-captures", "store", status=1))

    def test_a_store_that_is_full_leaves_the_rest_where_it_is(self) -> None:
        self.store.room = 1
        with override_settings(STORAGES=told_of(self.store.address)):
            self.assertIn("Begin it again", self.run_it("move-captures", "store", status=1))
        self.assertEqual(Series.objects.exclude(stored_as="").count(), 1)
        self.assertEqual(Series.objects.exclude(blob=None).count(), 1)

    def test_asked_to_end_it_ends_between_two_and_goes_on_later(self) -> None:
        handlers = {number: signal.getsignal(number) for number in (signal.SIGTERM, signal.SIGINT)}
        self.addCleanup(lambda: [signal.signal(number, handler) for number, handler in handlers.items()])
        with override_settings(STORAGES=told_of(self.store.address)):
            with (
                patch("nomothet.server.passes.moving.outside.put", side_effect=self.put_and_end),
                self.assertRaises(SystemExit) as ended,
            ):
                self.run_it("move-captures", "store")
            self.assertIn("broken off", str(ended.exception))
            self.assertEqual(Series.objects.exclude(stored_as="").count(), 1)
            self.assertIn("1 captures moved", self.run_it("move-captures", "store"))

    def put_and_end(self, data: bytes) -> str:
        os.kill(os.getpid(), signal.SIGTERM)
        return put(data)
