"""A whole installation in a folder of its own, as a service manager would keep it: the launcher with database, worker
and server processes, a bench that runs passes, and somebody who writes comments all the while. What was owed and what
was written is counted at the end."""

import json
import os
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import psutil

from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.ports import free_port
from nomothet.server.launch.secrets import ensure_secrets

PROJECT = Path(__file__).resolve().parents[1]
_GIVEN_UP_S = 120.0
_LONG_S = 10.0
_MAKE = """
import json
from django.conf import settings
from django.core.management import call_command
call_command("migrate", verbosity=0)
from tests.server.base import Browser, Scene
from nomothet.server.systems.commands import issue_demo_token
from nomothet.server.systems.models import System
scene = Scene()
cookies = Browser("editor").client.cookies
print(json.dumps({"token": scene.token, "review": scene.review.pk, "test": scene.tests[0].pk,
    "columns": [c.pk for c in scene.columns], "session": cookies[settings.SESSION_COOKIE_NAME].value,
    "csrf": cookies[settings.CSRF_COOKIE_NAME].value}))
"""
_READ = """
import json
from collections import Counter
from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Figure, Pass
from nomothet.server.talk.models import Comment
from nomothet.formats.series import unpack
def frames_s(one):
    series = one.series.filter(name="frames").first()
    return None if series is None else float(unpack(series.content)["frame_ms"].sum()) / 1000
told = [[p.column_id, p.number, p.outcome, p.note, p.whole_at is not None, frames_s(p),
    p.figures.filter(metric="average_fps").exists()] for p in Pass.objects.all()]
print(json.dumps({"states": Counter(Entry.objects.values_list("state", flat=True)), "passes": told,
    "comments": list(Comment.objects.values_list("text", flat=True))}))
"""


class Whole:
    """An installation, its bench, and somebody who writes."""

    def __init__(self, var: Path) -> None:
        self.var = var
        self.port, self.database_port = free_port(), free_port()
        self.environment = {
            **os.environ, "NOMOTHET_VAR": str(var), "NOMOTHET_DATABASE_PORT": str(self.database_port),
            "DJANGO_SETTINGS_MODULE": "nomothet.server.settings",
        }  # fmt: skip
        self.log = (var / "whole.log").open("ab")
        self.running: dict[str, subprocess.Popen[bytes]] = {}
        self.over = threading.Event()
        # From here on nobody writes any more.
        self.read = threading.Event()
        self.written: list[str] = []
        # Where its bench looks for the server: at the server itself, unless something is put between.
        self.asked_at = self.port
        # What the environment of launcher and bench holds beside, by their names.
        self.more: dict[str, dict[str, str]] = {}

    def script(self, text: str) -> str:
        return subprocess.run(
            [sys.executable, "-c", f"import django; django.setup()\n{text}"], env=self.environment, cwd=PROJECT,
            capture_output=True, text=True, check=True,
        ).stdout  # fmt: skip

    def make(self) -> dict[str, object]:
        database = PrivateDatabase(self.var / "database", self.database_port, ensure_secrets(self.var))
        database.start()
        made = dict(json.loads(self.script(_MAKE).splitlines()[-1]))
        database.stop()
        return made

    def start(self, name: str, made: dict[str, object]) -> None:
        commands = {
            "launcher": [
                sys.executable, "-m", "nomothet.server.launch", "--without-demo", "--no-benches", "--port",
                str(self.port), "--database-port", str(self.database_port),
            ],
            "bench": [
                sys.executable, "-m", "nomothet.cli.main", "bench", "--server", f"http://127.0.0.1:{self.asked_at}",
                "--spool", str(self.var / "spool"), "--simulate", str(PROJECT / "demo" / "simulated" / "wren.toml"),
                "--speed", "60",
            ],
        }  # fmt: skip
        token = {"NOMOTHET_BENCH_TOKEN": str(made["token"])}
        environment = {**self.environment, **token, **self.more.get(name, {})}
        self.running[name] = subprocess.Popen(commands[name], env=environment, stdout=self.log, stderr=self.log)

    def keep(self, made: dict[str, object]) -> None:
        """As a service manager would: start launcher and bench again when they have ended."""
        while not self.over.wait(0.2):
            for name, process in list(self.running.items()):
                if process.poll() is not None:
                    self.start(name, made)

    def write(self, made: dict[str, object]) -> None:
        """Write comments; those that were answered for have to be there at the end, once."""
        address = f"http://127.0.0.1:{self.port}/api/reviews/{made['review']}/talk"
        cookies = {"sessionid": str(made["session"]), "csrftoken": str(made["csrf"])}
        number = 0
        while not self.read.wait(0.05):
            number += 1
            try:
                body = {"about": "review", "text": f"comment {number}"}
                headers = {"X-CSRFToken": str(made["csrf"])}
                answer = httpx.post(address, json=body, cookies=cookies, headers=headers, timeout=30)
                if answer.status_code == 201:
                    self.written.append(f"comment {number}")
            except httpx.HTTPError:
                continue

    def wait_until_well(self) -> None:
        """Wait until the installation says of itself that it is; what it says when that takes long is printed."""
        began = told = time.monotonic()
        while time.monotonic() < began + _GIVEN_UP_S:
            try:
                health = httpx.get(f"http://127.0.0.1:{self.port}/health", timeout=5).json()
                if health["status"] == "well":
                    return
                said = {part: state for part, state in health["parts"].items() if state != "well"}
            except (httpx.HTTPError, ValueError) as error:
                said = {"no answer": repr(error)}
            if time.monotonic() - told > _LONG_S:
                told = time.monotonic()
                print(f"not well {told - began:.0f} s after it: {said}", flush=True)
            time.sleep(0.1)

    def pids(self, words: str) -> list[int]:
        """The processes of this installation whose command holds these words."""
        found = []
        for process in psutil.process_iter():
            try:
                line, name = " ".join(process.cmdline()), process.name()
                own = str(self.var) in line or process.environ().get("NOMOTHET_VAR") == str(self.var)
                # A part that begins as a copy of the launcher has a name of its own.
                if own and words in (name if name.startswith("nomothet ") else line):
                    found.append(process.pid)
            except psutil.Error:
                continue
        return found

    def owe(self, made: dict[str, object], count: int) -> None:
        """Owe passes through the API, until it says that it has them."""
        self.script(
            "from nomothet.server.docket.commands import ask_for_passes\n"
            "from nomothet.server.people.models import User\nfrom nomothet.server.reviews.models import Review\n"
            f"review = Review.objects.get(pk={made['review']})\n"
            f"for _ in range({count} // 10):\n"
            f"    ask_for_passes(User.objects.get(username='tester'), review, [{made['test']}], {made['columns']}, 10)"
        )

    def end(self) -> None:
        self.over.set()
        for process in self.running.values():
            process.terminate()
        for process in self.running.values():
            process.wait()

    def settle(self, owed: int) -> dict[str, int]:
        """Wait until all that was owed is in; gives how many things are not as wanted, by what they are."""
        deadline = time.monotonic() + 60 + 4 * owed
        while time.monotonic() < deadline:
            state = json.loads(self.script(_READ))
            if set(state["states"]) == {"done"} and not list((self.var / "spool").iterdir()):
                break
            time.sleep(2)
        self.over.set()
        completed = [one for one in state["passes"] if one[2] == "completed"]
        numbers = [(one[0], one[1]) for one in state["passes"]]
        comments = Counter(state["comments"])
        interrupted = len(state["passes"]) - len(completed)
        print(f"{len(completed)} completed passes, {interrupted} interrupted, {len(comments)} comments")
        return {
            "passes of the docket that are missing": owed - len(completed),
            "passes that are there twice": len(numbers) - len(set(numbers)),
            "passes that are not whole": sum(not one[4] for one in state["passes"]),
            "completed passes whose frames are not 60 s": sum(abs((one[5] or 0) - 60) > 0.5 for one in completed),
            "completed passes without figures": sum(not one[6] for one in completed),
            "interrupted passes without a reason": sum(not o[3] for o in state["passes"] if o[2] != "completed"),
            "entries that are not done": sum(count for key, count in state["states"].items() if key != "done"),
            "comments that were answered for and are not there": sum(one not in comments for one in self.written),
            "comments that are there twice": sum(count > 1 for count in comments.values()),
        }


@contextmanager
def whole_installation(owed: int, before: Callable[[Whole], None] | None = None) -> Iterator[Whole]:
    """One that runs and owes passes of two configurations, with somebody who writes until `read` is set. `before` is
    done to it before anything of it runs."""
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as name:
        Path(name).chmod(0o755)
        var = Path(name) / "var"
        var.mkdir(mode=0o755)
        whole = Whole(var)
        made = whole.make()
        if before:
            before(whole)
        for part in ("launcher", "bench"):
            whole.start(part, made)
        whole.wait_until_well()
        whole.owe(made, owed // 2)
        threading.Thread(target=whole.keep, args=(made,), daemon=True).start()
        writing = threading.Thread(target=whole.write, args=(made,))
        writing.start()
        try:
            yield whole
        finally:
            whole.read.set()
            writing.join()
            whole.end()
