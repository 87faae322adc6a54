#!/usr/bin/env python3
"""Runs the tests against a private MariaDB in var/test: scripts/run_tests.py [LABEL …]."""

import contextlib
import json
import os
import shutil
import sys
import unittest
from pathlib import Path

PROJECT = Path(__file__).resolve().parents[1]
VAR = PROJECT / "var" / "test"


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


def run(labels: list[str]) -> int:
    import django
    from django.test.runner import DiscoverRunner

    django.setup()
    runner = DiscoverRunner(verbosity=1, interactive=False, top_level=str(PROJECT), buffer=True, timing=True)
    counts: list[unittest.TestResult] = []
    suite_result = runner.suite_result

    def counted(suite: unittest.TestSuite, result: unittest.TestResult, **options: object) -> int:
        counts.append(result)
        return int(suite_result(suite, result, **options))

    runner.suite_result = counted  # type: ignore[method-assign]
    failures = runner.run_tests(labels)
    if counts:
        result = counts[0]
        bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        good = max(0, result.testsRun - bad - len(result.skipped))
        print(f"{good} passed, {bad} failed, {len(result.skipped)} skipped")
    return 1 if failures or not counts else 0


if __name__ == "__main__":
    sys.exit(main())
