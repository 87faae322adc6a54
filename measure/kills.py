#!/usr/bin/env python3
"""Parts of an installation are killed at random while passes run and people write. Wanted, of 300 kills: nothing lost,
nothing doubled, and the installation well again within 15 s by itself.

The launcher runs database, server processes and worker; it is killed too, and started again as a service manager would.
A bench runs passes; somebody writes comments all the while. At the end every pass that was owed is in once and whole,
or as interrupted with its reason, every comment that was answered for is there once, and no spool holds anything.
"""

import argparse
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter, defaultdict
from pathlib import Path

import httpx
import psutil

from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.ports import free_port
from nomothet.server.launch.secrets import ensure_secrets

PROJECT = Path(__file__).resolve().parents[1]
BACK_S = 15.0
_GIVEN_UP_S = 120.0
_PARTS = {
    "server": "launch.serve",
    "worker": "upkeep.worker",
    "database": "mariadbd",
    "bench": "nomothet.cli.main bench",
    "launcher": "nomothet.server.launch --",
}
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
    return None if series is None else float(unpack(bytes(series.blob))["frame_ms"].sum()) / 1000
told = [[p.column_id, p.number, p.outcome, p.note, p.whole_at is not None, frames_s(p),
    p.figures.filter(metric="average_fps").exists()] for p in Pass.objects.all()]
print(json.dumps({"states": Counter(Entry.objects.values_list("state", flat=True)), "passes": told,
    "comments": list(Comment.objects.values_list("text", flat=True))}))
"""


class Killed:
    """An installation, its bench, and somebody who writes."""

    def __init__(self, var: Path) -> None:
        self.var = var
        self.port, self.database_port = free_port(), free_port()
        self.environment = {
            **os.environ, "NOMOTHET_VAR": str(var), "NOMOTHET_DATABASE_PORT": str(self.database_port),
            "DJANGO_SETTINGS_MODULE": "nomothet.server.settings",
        }  # fmt: skip
        self.log = (var / "kills.log").open("ab")
        self.running: dict[str, subprocess.Popen[bytes]] = {}
        self.over = threading.Event()
        # From here on nobody writes any more.
        self.read = threading.Event()
        self.written: list[str] = []
        self.back_s: dict[str, list[float]] = defaultdict(list)

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
                sys.executable, "-m", "nomothet.cli.main", "bench", "--server", f"http://127.0.0.1:{self.port}",
                "--spool", str(self.var / "spool"), "--simulate", str(PROJECT / "demo" / "simulated" / "wren.toml"),
                "--speed", "60",
            ],
        }  # fmt: skip
        environment = {**self.environment, "NOMOTHET_BENCH_TOKEN": str(made["token"])}
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

    def pids(self, part: str) -> list[int]:
        found = []
        for process in psutil.process_iter():
            try:
                line = " ".join(process.cmdline())
                own = str(self.var) in line or process.environ().get("NOMOTHET_VAR") == str(self.var)
                if own and _PARTS[part] in line:
                    found.append(process.pid)
            except psutil.Error:
                continue
        return found

    def kill(self, part: str) -> bool:
        """Kill one process of a part, and wait until all is well; False when there is none just now."""
        pids = self.pids(part)
        if not pids:
            return False
        killed = random.choice(pids)
        os.kill(killed, signal.SIGKILL)
        began = time.monotonic()
        while len(set(self.pids(part)) - {killed}) < len(pids) and time.monotonic() - began < _GIVEN_UP_S:
            time.sleep(0.05)
        self.wait_until_well()
        self.back_s[part].append(time.monotonic() - began)
        return True

    def wait_until_well(self) -> None:
        deadline = time.monotonic() + _GIVEN_UP_S
        while time.monotonic() < deadline:
            try:
                if httpx.get(f"http://127.0.0.1:{self.port}/health", timeout=5).json()["status"] == "well":
                    return
            except (httpx.HTTPError, ValueError):
                pass
            time.sleep(0.1)

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


def main() -> int:
    """Kill, wait, and look at what is there; the status is 1 when something is not as wanted."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=300)
    parser.add_argument("--seed", type=int, default=20261)
    arguments = parser.parse_args()
    random.seed(arguments.seed)
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as name:
        Path(name).chmod(0o755)
        var = Path(name) / "var"
        var.mkdir(mode=0o755)
        killed = Killed(var)
        made = killed.make()
        for part in ("launcher", "bench"):
            killed.start(part, made)
        killed.wait_until_well()
        each = 10 * max(1, arguments.kills // 20)
        killed.owe(made, each)
        threading.Thread(target=killed.keep, args=(made,), daemon=True).start()
        writing = threading.Thread(target=killed.write, args=(made,))
        writing.start()
        counted: Counter[str] = Counter()
        while counted.total() < arguments.kills:
            time.sleep(random.uniform(0.1, 1.5))
            part = random.choice(list(_PARTS))
            counted[part] += killed.kill(part)
        killed.read.set()
        writing.join()
        return told(killed, made, counted, 2 * each)


def told(killed: Killed, made: dict[str, object], counted: Counter[str], owed: int) -> int:
    """Wait until all that was owed is in, and print what is there."""
    deadline = time.monotonic() + 60 + 4 * owed
    while time.monotonic() < deadline:
        state = json.loads(killed.script(_READ))
        if set(state["states"]) == {"done"} and not list((killed.var / "spool").iterdir()):
            break
        time.sleep(2)
    killed.over.set()
    completed = [one for one in state["passes"] if one[2] == "completed"]
    numbers = [(one[0], one[1]) for one in state["passes"]]
    comments = Counter(state["comments"])
    wrong = {
        "passes of the docket that are missing": owed - len(completed),
        "passes that are there twice": len(numbers) - len(set(numbers)),
        "passes that are not whole": sum(not one[4] for one in state["passes"]),
        "completed passes whose frames are not 60 s": sum(abs((one[5] or 0) - 60) > 0.5 for one in completed),
        "completed passes without figures": sum(not one[6] for one in completed),
        "interrupted passes without a reason": sum(not one[3] for one in state["passes"] if one[2] != "completed"),
        "entries that are not done": sum(count for key, count in state["states"].items() if key != "done"),
        "comments that were answered for and are not there": sum(one not in comments for one in killed.written),
        "comments that are there twice": sum(count > 1 for count in comments.values()),
    }
    killed.end()
    print(f"{counted.total()} kills: {', '.join(f'{part} {count}' for part, count in sorted(counted.items()))}")
    for part, times in sorted(killed.back_s.items()):
        median = sorted(times)[len(times) // 2]
        print(f"  well again after a kill of the {part:<9} {median:5.1f} s, {max(times):5.1f} s at most")
    interrupted = len(state["passes"]) - len(completed)
    print(f"{len(completed)} completed passes, {interrupted} interrupted, {len(comments)} comments")
    for what, count in wrong.items():
        print(f"  {count:>4} {what}")
    late = sum(one > BACK_S for times in killed.back_s.values() for one in times)
    print(f"  {late:>4} times not well within {BACK_S:.0f} s")
    return 1 if late or any(wrong.values()) else 0


if __name__ == "__main__":
    sys.exit(main())
