"""`nomothet-server`: an admin is made and a password offered from the terminal, by links that work once."""

import io
import os
import re
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout

from nomothet.server.launch.ports import free_port
from nomothet.server.launch.terminal import main
from nomothet.server.people.models import SecurityEvent, User
from tests.server.base import PASSWORD, Browser, SceneTest

NEW = "lantern-orchard-weir-37"


class Terminal(SceneTest):
    def run_it(self, *words: str, status: int = 0) -> str:
        out = io.StringIO()
        with redirect_stdout(out), redirect_stderr(out):
            self.assertEqual(main([*words]), status)
        return out.getvalue()

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
