"""Child processes that begin as a copy of their parent."""

import os
import signal
import tempfile
import time
import unittest
from collections.abc import Callable
from pathlib import Path

import psutil

from nomothet.server.launch.forked import ForkedChild

_DEADLINE_S = 60.0


class Forked(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.log = Path(folder.name) / "log"

    def start(self, run: Callable[[], None]) -> ForkedChild:
        child = ForkedChild.start("nomothet trial", run, log=self.log)
        self.addCleanup(child.stop)
        return child

    def wait(self, ready: Callable[[], bool]) -> None:
        deadline = time.monotonic() + _DEADLINE_S
        while not ready():
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.01)

    def told(self) -> str:
        return self.log.read_text() if self.log.exists() else ""

    def test_it_has_a_name_writes_to_its_log_and_tells_its_status(self) -> None:
        def run() -> None:
            os.write(1, b"out ")
            os.write(2, b"err")
            raise SystemExit(3)

        child = self.start(run)
        self.wait(lambda: not child.running)
        self.assertEqual((child.exit_code, self.told()), (3, "out err"))

    def test_it_ends_when_it_is_asked_to_and_by_force_when_it_does_not(self) -> None:
        def stubborn() -> None:
            signal.signal(signal.SIGTERM, signal.SIG_IGN)
            os.write(1, b"up")
            signal.pause()

        def willing() -> None:
            os.write(1, b"up")
            signal.pause()

        for run, code in ((willing, -signal.SIGTERM), (stubborn, -signal.SIGKILL)):
            with self.subTest(run.__name__):
                self.log.unlink(missing_ok=True)
                child = self.start(run)
                self.wait(lambda: self.told() == "up")
                self.assertEqual(psutil.Process(child.pid).name(), "nomothet trial")
                child.stop(timeout_s=0.2)
                self.assertEqual((child.running, child.exit_code), (False, code))

    def test_it_ends_with_its_parent_and_never_goes_on_as_a_copy_of_it(self) -> None:
        def parent() -> None:
            inner = ForkedChild.start("nomothet inner", signal.pause, log=self.log)
            os.write(1, f"{inner.pid}".encode())
            signal.pause()

        child = self.start(parent)
        self.wait(lambda: bool(self.told()))
        inner = psutil.Process(int(self.told()))
        os.kill(child.pid, signal.SIGKILL)
        self.wait(lambda: not inner.is_running() or inner.status() == psutil.STATUS_ZOMBIE)
