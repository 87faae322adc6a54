"""Starting and stopping everything, as ./start does after set-up."""

import json
import re
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

import httpx

from nomothet.server.demo.scenario import Scenario
from nomothet.server.launch.__main__ import arguments_of
from nomothet.server.launch.children import Child
from nomothet.server.launch.errors import LaunchError
from nomothet.server.launch.ports import require_free
from nomothet.server.launch.secrets import ensure_secrets
from tests.launch.installation import DEADLINE_S, StartedInstallation, processes_of

PROJECT = Path(__file__).resolve().parents[2]


class Start(StartedInstallation):
    def test_it_serves_prints_the_sign_ins_and_leaves_nothing_running(self) -> None:
        process = self.launch()
        text = self.read_until(process, "Ctrl-C stops everything")
        self.assertIn(f"http://127.0.0.1:{self.port}", text)
        sign_ins = dict(re.findall(r"^  ([a-z]+) +((?:[a-z]+-){4}\d{4}) ", text, re.M))
        self.assertEqual(len(sign_ins), 5, text)
        kept = (self.var / "secrets.json").read_text()
        for password in sign_ins.values():
            self.assertNotIn(password, kept)
        self.assertEqual((self.var / "secrets.json").stat().st_mode & 0o777, 0o600)
        self.assertEqual(httpx.get(f"http://127.0.0.1:{self.port}/health").json()["status"], "well")
        again = self.launch()
        self.assertIn(f"Port {self.port}", self.end_by_itself(again))
        self.assertEqual(again.returncode, 1)
        process.send_signal(signal.SIGINT)
        process.wait(DEADLINE_S)
        self.assertEqual(process.returncode, 0)
        self.assertEqual(processes_of(self.var), {})
        second = self.launch()
        text = self.read_until(second, "Ctrl-C stops everything")
        self.assertEqual([word for word in sign_ins.values() if word in text], [])
        self.assertIn("--new-sign-ins", text)

    def test_killing_it_takes_its_children_along(self) -> None:
        process = self.launch()
        self.read_until(process, "Ctrl-C stops everything")
        process.kill()
        process.wait()
        deadline = time.monotonic() + DEADLINE_S
        while processes_of(self.var):
            self.assertLess(time.monotonic(), deadline, processes_of(self.var))
            time.sleep(0.1)


_SIGNALLED = """
import os, signal
from nomothet.server.launch.__main__ import ended_by_signals
over = ended_by_signals()
with over._cond:
    os.kill(os.getpid(), signal.SIGTERM)
    signal.pthread_sigmask(signal.SIG_BLOCK, [])
print(over.wait(20))
"""


class Signals(unittest.TestCase):
    def test_a_signal_in_the_middle_of_a_wait_ends_it_and_blocks_nothing(self) -> None:
        done = subprocess.run(
            [sys.executable, "-c", _SIGNALLED], capture_output=True, text=True, timeout=60, check=False
        )
        self.assertEqual((done.returncode, done.stdout.strip()), (0, "True"), done.stderr)


class Parts(unittest.TestCase):
    def test_the_database_is_one_port_above_the_application(self) -> None:
        for words, expected in {
            "": (8420, 8421), "--own": (8430, 8431), "--port 9000": (9000, 9001), "--own --port 9000": (9000, 9001),
            "--own --database-port 7000": (8430, 7000),
        }.items():  # fmt: skip
            with self.subTest(words):
                found = arguments_of(words.split())
                self.assertEqual((found.port, found.database_port), expected)

    def test_a_port_in_use_says_what_to_do(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            with self.assertRaisesRegex(LaunchError, "--port N"):
                require_free(taken.getsockname()[1], "the application", "--port")

    def test_a_child_that_will_not_end_is_ended(self) -> None:
        script = "import signal, time; signal.signal(signal.SIGTERM, signal.SIG_IGN); print('up'); time.sleep(600)"
        with tempfile.TemporaryDirectory() as folder:
            log = Path(folder) / "log"
            child = Child.start("stubborn", [sys.executable, "-u", "-c", script], log=log)
            while "up" not in log.read_text():
                time.sleep(0.02)
            child.stop(timeout_s=0.2)
        self.assertEqual(child.exit_code, -signal.SIGKILL)

    def test_secrets_are_made_once_and_differ_between_installations(self) -> None:
        with tempfile.TemporaryDirectory() as first, tempfile.TemporaryDirectory() as second:
            made = ensure_secrets(Path(first))
            self.assertEqual(ensure_secrets(Path(first)), made)
            self.assertNotEqual(ensure_secrets(Path(second)), made)

    def test_passwords_that_an_earlier_version_kept_are_forgotten(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "secrets.json"
            path.write_text(json.dumps({"secret_key": "k", "demo_sign_ins": {"mirela": "a-b-c-d-1"}}))
            ensure_secrets(Path(folder))
            self.assertEqual(sorted(json.loads(path.read_text())), ["database_password", "secret_key"])


class DemoFiles(unittest.TestCase):
    def test_reviews_name_only_what_the_files_have(self) -> None:
        scenario = Scenario.read(PROJECT / "demo")
        configurations = {c["name"] for system in scenario.systems for c in system.get("configuration", [])}
        workloads = {workload["key"]: workload for workload in scenario.workloads}
        parts = {part["name"] for part in scenario.parts}
        for configuration in (c for system in scenario.systems for c in system.get("configuration", [])):
            self.assertIn(configuration.get("same_as", configuration["name"]), configurations)
            for fitted in configuration.get("fitted", {}).values():
                self.assertIn(fitted.partition(" #")[0], parts | {"empty"})
        people = set(scenario.usernames)
        for review in scenario.reviews:
            self.assertIn(review["editor"], people)
            self.assertEqual(sum(column.get("baseline", False) for column in review["column"]), 1)
            for column in review["column"]:
                self.assertIn(column["configuration"], configurations)
            for test in review["test"]:
                workload = workloads[test["workload"].split(" ")[0]]
                known = {setting["key"]: setting.get("values") for setting in workload.get("settings", [])}
                single = {key: [value] for key, value in test.get("settings", {}).items()}
                for key, values in (single | test.get("choices", {})).items():
                    self.assertIn(key, known)
                    for value in values:
                        self.assertTrue(known[key] is None or value in known[key], (key, value))
