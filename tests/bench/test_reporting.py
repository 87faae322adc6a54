"""Progress of a running pass: told as soon as there is some, no more often than asked, and the newest there is."""

import threading
import time
import unittest
from itertools import pairwise
from typing import Any
from unittest.mock import patch

from nomothet.bench import agent as agent_module
from nomothet.bench.agent import _Reporter
from nomothet.bench.job import Job

_DEADLINE_S = 20.0


class Server:
    """Keeps what it is told, and when."""

    def __init__(self) -> None:
        self.told: list[tuple[float, dict[str, Any]]] = []
        self.came = threading.Condition()

    def report(self, entry: int, progress: dict[str, Any]) -> bool:
        with self.came:
            self.told.append((time.monotonic(), progress))
            self.came.notify_all()
        return False

    def wait_for(self, count: int) -> list[float]:
        with self.came:
            if not self.came.wait_for(lambda: len(self.told) >= count, _DEADLINE_S):
                raise AssertionError(f"only {len(self.told)} of {count} were told")
            return [progress["elapsed_s"] for _, progress in self.told]


class Reporting(unittest.TestCase):
    def reporter(self, every_s: float, fresh_s: float) -> _Reporter:
        for name, value in (("_REPORT_S", every_s), ("_FRESH_S", fresh_s)):
            patcher = patch.object(agent_module, name, value)
            patcher.start()
            self.addCleanup(patcher.stop)
        self.server = Server()
        job = Job(1, 1, "reef-walk", "2.3", "simulated", [], {}, "as set up", {})
        made = _Reporter(self.server, job)  # type: ignore[arg-type]
        self.addCleanup(made.close)
        return made

    def note(self, reporter: _Reporter, elapsed_s: float) -> None:
        reporter.note("running", elapsed_s, None, {})

    def test_the_first_is_told_at_once(self) -> None:
        # Were it to wait, it would wait for an hour.
        with patch.object(_Reporter, "close", lambda self: None):
            reporter = self.reporter(3600.0, 3600.0)
            self.note(reporter, 1.0)
            self.assertEqual(self.server.wait_for(1), [1.0])
        reporter.close()

    def test_of_many_the_newest_is_told_and_none_too_soon(self) -> None:
        reporter = self.reporter(0.05, 0.02)
        self.note(reporter, 1.0)
        self.server.wait_for(1)
        for at in range(2, 12):
            self.note(reporter, float(at))
        told = self.server.wait_for(2)
        self.assertEqual(told[0], 1.0)
        self.assertEqual(told[-1], 11.0)
        times = [at for at, _ in self.server.told]
        self.assertTrue(all(later - earlier >= 0.05 for earlier, later in pairwise(times)))

    def test_what_is_noted_once_is_told_though_nothing_newer_comes(self) -> None:
        reporter = self.reporter(0.02, 0.01)
        for at in (1.0, 2.0, 3.0):
            self.note(reporter, at)
            self.server.wait_for(int(at))
        self.assertEqual(self.server.wait_for(3), [1.0, 2.0, 3.0])

    def test_it_ends_whatever_it_waits_for(self) -> None:
        for noted in (0, 1, 2):
            with self.subTest(noted=noted):
                reporter = self.reporter(0.01, 0.01)
                for at in range(noted):
                    self.note(reporter, float(at))
                reporter.close()
                self.assertFalse(reporter._thread.is_alive())
