"""Bench, server and database are killed at random moments while passes run; every pass arrives once and whole, or as
interrupted with its reason."""

import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from pathlib import Path
from typing import Any

import httpx

from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.ports import free_port
from nomothet.server.launch.secrets import ensure_secrets
from tests.launch.installation import prepare

PROJECT = Path(__file__).resolve().parents[2]
PASSES = 6
KILLS = 9
_DEADLINE_S = 300.0

_MAKE = """
import django; django.setup()
from tests.server.base import Scene
scene = Scene(); scene.owe(count={passes}); print(scene.token)
"""
_READ = """
import django, json; django.setup()
from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Pass
from nomothet.formats.series import unpack
def frames_s(one):
    series = one.series.filter(name="frames").first()
    return None if series is None else float(unpack(bytes(series.blob))["frame_ms"].sum()) / 1000
def told(p):
    return [p.number, p.outcome, p.note, p.whole_at is not None, p.duration_s, frames_s(p)]
entries = list(Entry.objects.values_list("state", flat=True))
print(json.dumps({"entries": entries, "passes": [told(p) for p in Pass.objects.all()]}))
"""


class Kills(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        self.addCleanup(folder.cleanup)
        Path(folder.name).chmod(0o755)
        var = Path(folder.name) / "var"
        var.mkdir(mode=0o755)
        prepare(var)
        self.database = PrivateDatabase(var / "database", free_port(), ensure_secrets(var))
        self.database.start()
        self.addCleanup(self.database.stop)
        self.port = free_port()
        self.spool = var / "spool"
        self.environment = {
            **os.environ,
            "NOMOTHET_VAR": str(var),
            "NOMOTHET_DATABASE_PORT": str(self.database.port),
            "NOMOTHET_DATABASE_NAME": "nomothet",
            "DJANGO_SETTINGS_MODULE": "nomothet.server.settings",
        }
        self.token = self.script(_MAKE.format(passes=PASSES)).strip()
        self.processes: dict[str, subprocess.Popen[bytes]] = {}
        self.addCleanup(self.end_all)
        for name in ("server", "bench"):
            self.start(name)

    def script(self, text: str) -> str:
        done = subprocess.run(
            [sys.executable, "-c", text], env=self.environment, cwd=PROJECT, capture_output=True, text=True, check=False
        )
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
        return done.stdout

    def start(self, name: str, *options: str) -> None:
        commands = {
            "server": [
                sys.executable, "-m", "uvicorn", "nomothet.server.asgi:application", "--port", str(self.port),
                "--lifespan", "off", "--log-level", "error",
            ],
            "bench": [
                sys.executable, "-m", "nomothet.cli.main", "bench", "--server", f"http://127.0.0.1:{self.port}",
                "--spool", str(self.spool), "--simulate", str(PROJECT / "demo" / "simulated" / "wren.toml"),
                "--speed", "60", *options,
            ],
        }  # fmt: skip
        environment = {**self.environment, "NOMOTHET_BENCH_TOKEN": self.token}
        self.processes[name] = subprocess.Popen(
            commands[name], env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )

    def kill(self, name: str) -> None:
        if name == "database":
            assert self.database.child is not None
            os.kill(self.database.child.pid, signal.SIGKILL)
            self.database.child.stop()
            self.database.start()
            return
        self.processes[name].send_signal(signal.SIGKILL)
        self.processes[name].wait()
        self.start(name)

    def end_all(self) -> None:
        for process in self.processes.values():
            process.kill()
            process.wait()

    def state(self) -> dict[str, Any]:
        return dict(json.loads(self.script(_READ)))

    def test_every_pass_arrives_once_and_whole_or_as_interrupted_with_its_reason(self) -> None:
        rng = random.Random(20261)
        pause = threading.Event()
        for _ in range(KILLS):
            pause.wait(rng.uniform(0.2, 1.6))
            self.kill(rng.choice(["bench", "bench", "server", "database"]))
        self.wait_for_server()
        self.processes["bench"].send_signal(signal.SIGKILL)
        self.processes["bench"].wait()
        self.start("bench", "--until-idle")
        self.assertEqual(self.processes["bench"].wait(_DEADLINE_S), 0)
        state = self.state()
        self.assertEqual(set(state["entries"]), {"done"})
        self.assertTrue(all(whole for _, _, _, whole, _, _ in state["passes"]), state["passes"])
        numbers = [number for number, *_ in state["passes"]]
        self.assertEqual(sorted(numbers), list(range(1, len(numbers) + 1)))
        completed = [one for one in state["passes"] if one[1] == "completed"]
        self.assertEqual(len(completed), PASSES)
        for _, _, _, _, duration_s, frames_s in completed:
            self.assertAlmostEqual(duration_s, 60.0, delta=0.2)
            self.assertAlmostEqual(frames_s, 60.0, delta=0.5)
        for _, outcome, note, *_ in state["passes"]:
            if outcome != "completed":
                self.assertEqual(outcome, "crashed")
                self.assertIn("killed", note)
        self.assertEqual(list(self.spool.iterdir()), [])

    def wait_for_server(self) -> None:
        deadline = time.monotonic() + _DEADLINE_S
        with httpx.Client(base_url=f"http://127.0.0.1:{self.port}", timeout=5) as client:
            while time.monotonic() < deadline:
                try:
                    if client.get("/health").status_code == 200:
                        return
                except httpx.HTTPError:
                    threading.Event().wait(0.1)
        self.fail("the server did not come back")
