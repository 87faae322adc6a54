"""Counters of Linux: against what psutil reads on the same machine, and on trees of files with a known content."""

import os
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import psutil

from nomothet.bench.counters import PsutilCounters, counters
from nomothet.bench.linux_counters import LinuxCounters

TICKS = 100
STAT = """cpu  400 0 100 1500 200 0 0 0 50 0
cpu0 200 0 50 700 50 0 0 0 50 0
cpu2 200 0 50 800 150 0 0 0 0 0
intr 12345 0 0 0
ctxt 99
"""
MEMORY = "MemTotal: 8000 kB\nMemFree: 10 kB\nMemAvailable: 6000 kB\nSwapTotal: 500 kB\nSwapFree: 400 kB\n"
DISKS = """   8       0 sda 10 0 2000 5 20 0 4000 6 0 7 8
   8       1 sda1 10 0 1000 5 20 0 4000 6 0 7 8
 259       0 cciss/c0d0 1 0 6 5 1 0 4 6 0 7 8
"""
NETWORK = """Inter-|   Receive                                                |  Transmit
 face |bytes    packets errs drop fifo frame compressed multicast|bytes    packets errs drop fifo colls carrier compressed
    lo: 900 1 0 0 0 0 0 0 900 1 0 0 0 0 0 0
  eth0:1000 1 0 0 0 0 0 0 300 1 0 0 0 0 0 0
 br:12: 50 1 0 0 0 0 0 0 7 1 0 0 0 0 0 0
"""  # noqa: E501


@unittest.skipUnless(sys.platform == "linux", "files that only Linux has")
class OnThisMachine(unittest.TestCase):
    def test_psutil_reads_the_same(self) -> None:
        # What rises lies between two readings of psutil, one before and one after.
        before, now, after = PsutilCounters().count(), LinuxCounters().count(), PsutilCounters().count()
        self.assertEqual(now.cores.keys(), before.cores.keys())
        self.assertEqual((now.memory, now.swap), (before.memory, before.swap))
        for name in ("read", "written", "received", "sent", "waited_s"):
            self.assertLessEqual(getattr(before, name), getattr(now, name) + 0.011, name)
            self.assertLessEqual(getattr(now, name), getattr(after, name) + 0.011, name)
        for at, core in now.cores.items():
            self.assertLessEqual(before.cores[at].busy_s, core.busy_s + 0.011)
            self.assertLessEqual(core.busy_s, after.cores[at].busy_s + 0.011)
            self.assertLessEqual(before.cores[at].whole_s, core.whole_s + 0.1)
            self.assertLessEqual(core.whole_s, after.cores[at].whole_s + 0.1)
        self.assertAlmostEqual(now.available / 2**30, (before.available + after.available) / 2**31, delta=0.5)

    def test_it_is_what_the_bench_reads(self) -> None:
        self.assertEqual(counters().source, "/proc")

    def test_the_clock_is_that_of_psutil(self) -> None:
        clock = psutil.cpu_freq()
        if clock is None:
            self.skipTest("this machine does not tell its clock")
        self.assertAlmostEqual((LinuxCounters().clock_mhz() or 0) / clock.current, 1.0, delta=0.5)


class OnATree(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.proc, self.devices = Path(folder.name, "proc"), Path(folder.name, "sys")
        (self.proc / "net").mkdir(parents=True)
        for drive in ("sda", "cciss!c0d0"):
            (self.devices / "block" / drive).mkdir(parents=True)
        for name, text in (
            ("stat", STAT), ("meminfo", MEMORY), ("diskstats", DISKS), ("net/dev", NETWORK),
            ("vmstat", "pgfault 9\npgmajfault 77\npgmajfault_other 5\n"), ("cpuinfo", "cpu MHz\t\t: 2000.5\n" * 2),
        ):  # fmt: skip
            (self.proc / name).write_text(text)
        patched = mock.patch("nomothet.bench.linux_counters.TICKS_PER_S", TICKS)
        patched.start()
        self.addCleanup(patched.stop)

    def counters(self) -> LinuxCounters:
        return LinuxCounters(self.proc, self.devices)

    def test_processors_by_their_numbers_without_what_guests_used_twice(self) -> None:
        told = self.counters().count()
        self.assertEqual(list(told.cores), [0, 2])
        self.assertEqual((told.cores[0].busy_s, told.cores[0].whole_s), (2.5, 10.0))
        self.assertEqual((told.cores[2].busy_s, told.cores[2].whole_s), (2.5, 12.0))
        self.assertEqual(told.waited_s, 2.0)

    def test_memory_in_bytes(self) -> None:
        told = self.counters().count()
        memory = (told.memory, told.available, told.swap, told.swap_used)
        self.assertEqual(memory, (8000 * 1024, 6000 * 1024, 500 * 1024, 100 * 1024))

    def test_whole_drives_count_and_their_parts_do_not(self) -> None:
        told = self.counters().count()
        self.assertEqual((told.read, told.written), (2006 * 512, 4004 * 512))

    def test_all_of_the_network_counts_but_loopback(self) -> None:
        told = self.counters().count()
        self.assertEqual((told.received, told.sent), (1050, 307))

    def test_major_faults_alone(self) -> None:
        self.assertEqual(self.counters().count().faults, 77)

    def test_a_file_is_read_anew_each_time(self) -> None:
        read = self.counters()
        read.count()
        (self.proc / "vmstat").write_text("pgmajfault 80\n")
        self.assertEqual(read.count().faults, 80)

    def test_the_clock_of_the_drivers_comes_before_that_of_the_processor(self) -> None:
        self.assertEqual(self.counters().clock_mhz(), 2000.5)
        for at, khz in enumerate((3_000_000, 4_000_000)):
            policy = self.devices / "devices/system/cpu/cpufreq" / f"policy{at}"
            policy.mkdir(parents=True)
            (policy / "scaling_cur_freq").write_text(f"{khz}\n")
        self.assertEqual(self.counters().clock_mhz(), 3500.0)

    def test_a_system_that_does_not_tell_all_is_left_to_psutil(self) -> None:
        self.assertTrue(LinuxCounters.can_read(self.proc))
        (self.proc / "meminfo").write_text(MEMORY.replace("MemAvailable", "MemOther"))
        self.assertFalse(LinuxCounters.can_read(self.proc))
        self.assertFalse(LinuxCounters.can_read(Path(os.devnull)))
