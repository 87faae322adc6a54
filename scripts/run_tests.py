#!/usr/bin/env python3
"""Runs the tests, each share of them against a MariaDB of its own: scripts/run_tests.py [LABEL …].

Without labels everything runs, in shares, some of them side by side. The slowest test
classes are named at the end of a share, with what they took together with their set-up.
"""

import contextlib
import fcntl
import json
import os
import resource
import shutil
import subprocess
import sys
import time
import unittest
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from test_template import copy, template

PROJECT = Path(__file__).resolve().parents[1]
VAR = PROJECT / "var" / "test"
SLOWEST = 12
# What takes long is begun first; into how many shares its modules are dealt.
_DEALT = {"launch": 3, "browser": 3, "server": 6}
WORDS = ("passed", "failed", "skipped")


def main() -> int:
    """Run the tests named, all without a name, and close with one line of counts."""
    os.chdir(PROJECT)
    labels = sys.argv[1:]
    if labels:
        var = Path(os.environ.get("NOMOTHET_TEST_VAR", VAR / "chosen"))
        with alone_in(var):
            return share(labels, var)
    with alone_in(VAR / "all"):
        return everything()


@contextlib.contextmanager
def alone_in(folder: Path) -> Iterator[None]:
    """Two runs in one folder would take each other's databases away; the second one is refused."""
    folder.parent.mkdir(parents=True, exist_ok=True)
    with folder.with_suffix(".lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            sys.exit(f"run_tests: tests are running in {folder} already; wait for them or end them")
        yield


def everything() -> int:
    """Run all shares, some of them side by side; the highest of their statuses."""
    os.environ["NOMOTHET_TEST_TEMPLATE"] = str(template(VAR))
    dealt = shares()
    # More than there are processors: with browsers and databases they wait for a good part of the time.
    with ThreadPoolExecutor((os.cpu_count() or 1) + 3) as side_by_side:
        statuses = list(side_by_side.map(lambda name: start_share(name, dealt[name]).wait(), dealt))
    totals: Counter[str] = Counter()
    for name, own in dealt.items():
        print(f"\n-- {name}: {' '.join(own)}")
        print((VAR / f"{name}.log").read_text(), end="")
        counts = VAR / name / "counts.json"
        totals.update(json.loads(counts.read_text()) if counts.exists() else {"failed": 1})
    print(", ".join(f"{totals[word]} {word}" for word in WORDS))
    return max(statuses)


def shares() -> dict[str, list[str]]:
    """All modules of tests, by the name of their share."""
    tests = PROJECT / "tests"
    dealt: dict[str, list[str]] = {}
    for folder, count in _DEALT.items():
        modules = sorted(found.stem for found in (tests / folder).glob("test_*.py"))
        for at in range(count):
            dealt[f"{folder}-{at + 1}"] = [f"tests.{folder}.{module}" for module in modules[at::count]]
    loose = {found.stem for found in tests.glob("test_*.py")}
    others = {found.parent.name for found in tests.glob("*/__init__.py")} - _DEALT.keys()
    return {**dealt, "others": sorted(f"tests.{name}" for name in loose | others)}


def start_share(name: str, labels: list[str]) -> "subprocess.Popen[bytes]":
    """This script with some labels, as a process that writes into a log."""
    shutil.rmtree(VAR / name, ignore_errors=True)
    environment = {**os.environ, "NOMOTHET_TEST_VAR": str(VAR / name)}
    with (VAR / f"{name}.log").open("wb") as log:
        command = [sys.executable, __file__, *labels]
        return subprocess.Popen(command, env=environment, stdout=log, stderr=subprocess.STDOUT)


def share(labels: list[str], var: Path) -> int:
    """Start a database, run the tests named, and leave the counts in counts.json."""
    sys.path.insert(0, str(PROJECT))
    os.environ["NOMOTHET_VAR"] = str(var)
    os.environ["DJANGO_SETTINGS_MODULE"] = "nomothet.server.settings"
    from nomothet.server.launch.database import PrivateDatabase
    from nomothet.server.launch.ports import free_port
    from nomothet.server.launch.secrets import ensure_secrets

    held = template(VAR)
    os.environ["NOMOTHET_TEST_TEMPLATE"] = str(held)
    shutil.rmtree(var, ignore_errors=True)
    var.mkdir(parents=True)
    copy(held, var)
    database = PrivateDatabase(var / "database", free_port(), ensure_secrets(var), for_tests=True)
    os.environ["NOMOTHET_DATABASE_PORT"] = str(database.port)
    with contextlib.ExitStack() as stack:
        database.start()
        stack.callback(database.stop)
        return run(labels, var)


class TimedResult(unittest.TextTestResult):
    """A result that knows how long each class of tests took; a class's set-up counts to its first test."""

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.seconds: Counter[str] = Counter()
        self._last = time.perf_counter()

    def addError(self, test: unittest.TestCase, err: Any) -> None:
        # What goes wrong when a test is over, and nothing of it is caught any more, would break off the whole run.
        between = self.buffer and not hasattr(sys.stdout, "getvalue")
        if between:
            self._setupStdout()
        super().addError(test, err)
        if between:
            self._restoreStdout()

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        now = time.perf_counter()
        self.seconds[f"{type(test).__module__}.{type(test).__qualname__}"] += now - self._last
        self._last = now


def run(labels: list[str], var: Path) -> int:
    import django
    from django.conf import settings
    from django.test.runner import DiscoverRunner

    from tests.lasting import LASTING

    django.setup()
    # Each client makes a handler, which would look through the files of the front end; only servers serve them.
    settings.WHITENOISE_ROOT = None
    runner = DiscoverRunner(
        verbosity=1, interactive=False, top_level=str(PROJECT), buffer=True, timing=True, keepdb=True
    )
    results: list[TimedResult] = []
    suite_result = runner.suite_result

    def counted(suite: unittest.TestSuite, result: TimedResult, **options: object) -> int:
        results.append(result)
        return int(suite_result(suite, result, **options))

    runner.suite_result = counted  # type: ignore[method-assign]
    runner.get_resultclass = lambda: TimedResult  # type: ignore[method-assign]
    with LASTING:
        failures = runner.run_tests(labels)
    if results:
        result = results[0]
        bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        good = max(0, result.testsRun - bad - len(result.skipped))
        for name, seconds in result.seconds.most_common(SLOWEST):
            print(f"{seconds:7.1f} s  {name}")
        print(f"{_processor_s():.0f} s of a processor")
        counts = dict(zip(WORDS, (good, bad, len(result.skipped)), strict=True))
        print(", ".join(f"{count} {word}" for word, count in counts.items()))
        (var / "counts.json").write_text(json.dumps(counts))
    return 1 if failures or not results else 0


def _processor_s() -> float:
    """What this process and those that it has waited for have used."""
    own, others = resource.getrusage(resource.RUSAGE_SELF), resource.getrusage(resource.RUSAGE_CHILDREN)
    return own.ru_utime + own.ru_stime + others.ru_utime + others.ru_stime


if __name__ == "__main__":
    sys.exit(main())
