#!/usr/bin/env python3
"""Runs the tests against a private MariaDB in var/test: scripts/run_tests.py [LABEL …].

The slowest test classes are named at the end, with what they took together with their set-up.
"""

import contextlib
import json
import os
import shutil
import sys
import time
import unittest
from collections import Counter
from pathlib import Path
from typing import Any

PROJECT = Path(__file__).resolve().parents[1]
VAR = PROJECT / "var" / "test"
SLOWEST = 60


def main() -> int:
    """Start the database, run the tests named (all without a name), and close with one line of counts."""
    os.chdir(PROJECT)
    sys.path.insert(0, str(PROJECT))
    os.environ["NOMOTHET_VAR"] = str(VAR)
    os.environ["DJANGO_SETTINGS_MODULE"] = "nomothet.server.settings"
    from nomothet.server.launch.database import PrivateDatabase
    from nomothet.server.launch.ports import free_port
    from nomothet.server.launch.secrets import ensure_secrets

    shutil.rmtree(VAR, ignore_errors=True)
    ensure_secrets(VAR, [])
    password = json.loads((VAR / "secrets.json").read_text())["database_password"]
    database = PrivateDatabase(VAR / "database", free_port(), password)
    os.environ["NOMOTHET_DATABASE_PORT"] = str(database.port)
    with contextlib.ExitStack() as stack:
        database.start()
        stack.callback(database.stop)
        return run(sys.argv[1:] or ["tests"])


class TimedResult(unittest.TextTestResult):
    """A result that knows how long each class of tests took; a class's set-up counts to its first test."""

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.seconds: Counter[str] = Counter()
        self._last = time.perf_counter()

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        now = time.perf_counter()
        self.seconds[f"{type(test).__module__}.{type(test).__qualname__}"] += now - self._last
        self._last = now


def run(labels: list[str]) -> int:
    import django
    from django.test.runner import DiscoverRunner

    django.setup()
    runner = DiscoverRunner(verbosity=1, interactive=False, top_level=str(PROJECT), buffer=True, timing=True)
    counts: list[TimedResult] = []
    suite_result = runner.suite_result

    def counted(suite: unittest.TestSuite, result: TimedResult, **options: object) -> int:
        counts.append(result)
        return int(suite_result(suite, result, **options))

    runner.suite_result = counted  # type: ignore[method-assign]
    runner.get_resultclass = lambda: TimedResult  # type: ignore[method-assign]
    failures = runner.run_tests(labels)
    if counts:
        result = counts[0]
        bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        for name, seconds in result.seconds.most_common(SLOWEST):
            print(f"{seconds:7.1f} s  {name}")
        good = max(0, result.testsRun - bad - len(result.skipped))
        print(f"{good} passed, {bad} failed, {len(result.skipped)} skipped")
    return 1 if failures or not counts else 0


if __name__ == "__main__":
    sys.exit(main())
