"""What a workload's own processes use: those it starts later, those that end, and what psutil says of the same."""

import contextlib
import math
import os
import signal
import subprocess
import sys
import time
import unittest
from unittest import mock

import psutil

from nomothet.bench.families import Family, LinuxFamily, PsutilFamily
from nomothet.bench.process_sensors import ProcessSensors

# Starts a child whenever it is told to, ends the last one, or works until the processor counts so many seconds more,
# and tells what it has used by then: a machine that shares its processors may count more than was asked for.
_PROGRAM = """
import subprocess, sys, time
children = []
for line in sys.stdin:
    told = line.split()
    if told[0] == "start":
        children.append(subprocess.Popen([sys.executable, "-c", "import time; print(flush=True); time.sleep(300)"],
                                         stdout=subprocess.PIPE))
        children[-1].stdout.readline()
        print(children[-1].pid, flush=True)
    elif told[0] == "end":
        last = children.pop()
        last.kill()
        last.wait()
        print("ended", flush=True)
    else:
        until = time.process_time() + float(told[1])
        while time.process_time() < until:
            pass
        print(time.process_time(), flush=True)
"""


class Workload(unittest.TestCase):
    def setUp(self) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-c", _PROGRAM], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
            start_new_session=True,
        )  # fmt: skip
        self.addCleanup(self.end)

    def end(self) -> None:
        with contextlib.suppress(ProcessLookupError):
            os.killpg(self.process.pid, signal.SIGKILL)
        self.process.communicate()

    def tell(self, *words: str) -> str:
        assert self.process.stdin is not None
        assert self.process.stdout is not None
        print(*words, file=self.process.stdin, flush=True)
        return self.process.stdout.readline().strip()

    def families(self) -> list[Family]:
        return [LinuxFamily(self.process.pid), PsutilFamily(self.process.pid)]

    def test_both_readers_find_the_same_processes(self) -> None:
        started = {int(self.tell("start")) for _ in range(2)}
        for family in self.families():
            with self.subTest(family.source):
                family.look()
                spent, memory = family.spent()
                self.assertEqual(spent.keys(), started | {self.process.pid})
                held = sum(psutil.Process(pid).memory_info().rss for pid in spent)
                self.assertAlmostEqual(memory / held, 1.0, delta=0.1)

    def test_who_comes_later_is_found_by_the_next_look_and_who_ended_is_gone(self) -> None:
        for family in self.families():
            with self.subTest(family.source):
                family.look()
                came = int(self.tell("start"))
                self.assertNotIn(came, family.spent()[0])
                family.look()
                self.assertIn(came, family.spent()[0])
                self.tell("end")
                self.assertEqual(list(family.spent()[0]), [self.process.pid])

    def test_work_is_told_as_seconds_of_a_processor(self) -> None:
        for family in self.families():
            with self.subTest(family.source):
                family.look()
                began_s, before = float(self.tell("work", "0")), family.spent()[0][self.process.pid]
                used_s = float(self.tell("work", "0.3")) - began_s
                self.assertAlmostEqual(family.spent()[0][self.process.pid] - before, used_s, delta=0.05)

    def test_use_is_a_share_of_the_time_that_passed(self) -> None:
        sensors = ProcessSensors(self.process.pid)
        began_s, began = float(self.tell("work", "0")), time.monotonic()
        sensors.read()
        between = time.monotonic()
        used_s = float(self.tell("work", "0.3")) - began_s
        least = time.monotonic() - between
        use, memory = sensors.read()
        passed = time.monotonic() - began
        self.assertGreaterEqual(use, 100 * (used_s - 0.05) / passed)
        self.assertLessEqual(use, 100 * (used_s + 0.05) / least)
        self.assertGreater(memory, 0)

    def test_none_left_is_no_number(self) -> None:
        sensors = ProcessSensors(self.process.pid)
        self.process.kill()
        self.process.wait()
        self.assertTrue(all(math.isnan(value) for value in sensors.read()))


class Counting(unittest.TestCase):
    def read(self, *moments: dict[int, float]) -> list[float]:
        """The use that is told after each moment, a second apart."""
        family = mock.Mock(look_s=1.0, source="test")
        family.spent.side_effect = [(moment, 2**30) for moment in moments]
        clock = iter(range(100))
        with (
            mock.patch("nomothet.bench.process_sensors.LinuxFamily", return_value=family),
            mock.patch("nomothet.bench.process_sensors.PsutilFamily", return_value=family),
            mock.patch("nomothet.bench.process_sensors.time.monotonic", side_effect=lambda: float(next(clock))),
        ):
            sensors = ProcessSensors(1)
            return [sensors.read()[0] for _ in moments[1:]]

    def test_what_one_used_before_it_was_seen_is_not_told_as_used_at_once(self) -> None:
        self.assertEqual(self.read({1: 5.0}, {1: 5.5, 2: 40.0}, {1: 5.5, 2: 41.0}), [50.0, 100.0])

    def test_one_that_ended_takes_nothing_from_the_others(self) -> None:
        self.assertEqual(self.read({1: 5.0, 2: 40.0}, {1: 5.25}), [25.0])
