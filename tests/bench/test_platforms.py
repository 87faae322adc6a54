"""What serves where a system has no named pipes, and ending a process with all that it started."""

import os
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from nomothet.bench.counters import counters
from nomothet.bench.frame_door import FrameDoor
from nomothet.bench.platforms import bound, end_group, forget_file, signal_name, usable_processors
from tests.bench.waiting import eventually


class Doors(unittest.TestCase):
    """The door that is used where there are neither named pipes nor sockets of the local system."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.lines: list[str] = []
        self.seen = threading.Condition()
        self.door = FrameDoor(self.folder, self.take, pipes=False)

    def take(self, line: str) -> None:
        with self.seen:
            self.lines.append(line)
            self.seen.notify_all()

    def wait_for(self, holds: Callable[[], bool]) -> None:
        with self.seen:
            self.assertTrue(self.seen.wait_for(holds, timeout=20), self.lines)

    def test_lines_added_to_the_file_are_taken_as_they_come(self) -> None:
        with open(self.door.environment["NOMOTHET_FRAMES"], "a", buffering=1) as file:
            file.write("frame 16.5\nframe 16")
            self.wait_for(lambda: self.lines == ["frame 16.5"])
            file.write(".7\r\n")
            self.wait_for(lambda: self.lines == ["frame 16.5", "frame 16.7"])
        self.door.close()

    def test_several_programs_write_to_the_port(self) -> None:
        port = int(self.door.environment["NOMOTHET_PORT"])
        for rate in ("16.5", "33.3"):
            with socket.create_connection(("127.0.0.1", port)) as caller:
                caller.sendall(f"frame {rate}\n".encode() * 100)
        self.door.close()
        self.assertEqual(sorted(set(self.lines)), ["frame 16.5", "frame 33.3"])
        self.assertEqual(len(self.lines), 200)

    def test_what_was_written_just_before_it_closes_is_not_lost(self) -> None:
        with open(self.door.environment["NOMOTHET_FRAMES"], "ab") as file:
            file.write(b"frame 5\n" * 1000)
        self.door.close()
        self.assertEqual(len(self.lines), 1000)
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_no_pipe_and_no_local_socket_is_offered(self) -> None:
        self.assertEqual(set(self.door.environment), {"NOMOTHET_FRAMES", "NOMOTHET_PORT"})
        self.door.close()


class Processes(unittest.TestCase):
    def test_a_group_ends_with_all_that_it_started(self) -> None:
        starts = (
            "import subprocess, time\nchild = subprocess.Popen(['sleep', '300'])\n"
            "print(child.pid, flush=True)\ntime.sleep(300)"
        )
        leader = subprocess.Popen([sys.executable, "-c", starts], stdout=subprocess.PIPE, start_new_session=True)
        assert leader.stdout is not None
        child = int(leader.stdout.readline())
        end_group(leader, kill=True)
        leader.wait(20)
        leader.stdout.close()
        self.assertEqual(signal_name(-leader.returncode), "SIGKILL")
        # A signal that was sent takes its time on a busy machine.
        self.assertTrue(eventually(lambda: not _lives(Path("/proc", str(child)))))

    def test_a_group_that_is_gone_says_so(self) -> None:
        leader = subprocess.Popen([sys.executable, "-c", ""], start_new_session=True)
        leader.wait()
        with self.assertRaises(ProcessLookupError):
            end_group(leader, kill=False)

    def test_a_program_is_bound_before_it_runs(self) -> None:
        first = usable_processors()[:1]
        told = subprocess.run(
            [sys.executable, "-c", "import os; print(sorted(os.sched_getaffinity(0)), os.nice(0))"],
            preexec_fn=bound(first, 3), capture_output=True, text=True, check=True,
        ).stdout  # fmt: skip
        self.assertEqual(told.split(), [f"[{first[0]}]", str(os.nice(0) + 3)])

    def test_a_number_that_is_no_signal_stays_a_number(self) -> None:
        self.assertEqual((signal_name(signal.SIGTERM), signal_name(250)), ("SIGTERM", "250"))


class Elsewhere(unittest.TestCase):
    """On a system that is not Linux, what it lacks is left out."""

    def setUp(self) -> None:
        self.enterContext(mock.patch("nomothet.bench.platforms.sys.platform", "darwin"))

    def test_all_processors_may_be_used(self) -> None:
        self.assertEqual(usable_processors(), list(range(os.cpu_count() or 1)))

    def test_psutil_counts(self) -> None:
        self.assertEqual(counters().source, "psutil")

    def test_a_file_is_not_asked_to_be_forgotten(self) -> None:
        with tempfile.TemporaryFile() as file:
            self.assertFalse(forget_file(file.fileno()))


def _lives(process: Path) -> bool:
    """Whether a process is more than a line that nobody has read yet."""
    try:
        return ") Z " not in (process / "stat").read_text()
    except OSError:
        return False
