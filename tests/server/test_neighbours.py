"""Processes of an installation ring at each other: heard by all others, lost without harm, and tidied after a death."""

import asyncio
import os
import socket
import subprocess
import sys
import tempfile
import threading
import unittest
from pathlib import Path
from unittest.mock import patch

from django.test import TestCase, override_settings

from nomothet.server.feed import neighbours
from nomothet.server.feed.neighbours import Bell, ring
from nomothet.server.feed.poller import Poller
from nomothet.server.upkeep.tasks import tidy_captures


def rung_by_another(folder: Path) -> None:
    """Ring from a process of another number."""
    code = f"import pathlib; from nomothet.server.feed.neighbours import ring; ring(pathlib.Path({str(folder)!r}))"
    subprocess.run([sys.executable, "-c", code], check=True, timeout=60)


class Ringing(unittest.IsolatedAsyncioTestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory())) / "bells"
        self.heard = asyncio.Event()

    def hung(self) -> Bell:
        bell = Bell(self.folder)
        self.assertTrue(bell.hang(self.heard.set))
        self.addCleanup(bell.take_down)
        return bell

    async def test_a_ring_of_another_process_is_heard_and_one_of_its_own_is_none(self) -> None:
        self.hung()
        ring(self.folder)
        await asyncio.to_thread(rung_by_another, self.folder)
        await asyncio.wait_for(self.heard.wait(), 10)
        self.heard.clear()
        ring(self.folder)
        await asyncio.sleep(0)
        self.assertFalse(self.heard.is_set())

    async def test_taken_down_it_is_gone_and_may_be_hung_again(self) -> None:
        bell = self.hung()
        bell.take_down()
        self.assertEqual(list(self.folder.iterdir()), [])
        self.assertTrue(bell.hang(self.heard.set))
        with patch.object(neighbours.os, "getpid", return_value=1):
            ring(self.folder)
        await asyncio.wait_for(self.heard.wait(), 10)

    async def test_the_bell_of_a_process_that_died_is_taken_away(self) -> None:
        self.folder.mkdir()
        left = self.folder / "1.bell"
        with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as gone:
            gone.bind(str(left))
        self.hung()
        ring(self.folder)
        self.assertEqual([path.name for path in self.folder.iterdir()], [f"{os.getpid()}.bell"])

    def test_who_waits_is_woken_by_a_ring_also_by_one_before(self) -> None:
        bell = Bell(self.folder)
        self.addCleanup(bell.take_down)
        bell.wait(0)
        rung_by_another(self.folder)
        waiting = threading.Thread(target=bell.wait, args=(600,), daemon=True)
        waiting.start()
        waiting.join(60)
        self.assertFalse(waiting.is_alive())

    def test_who_waits_without_a_bell_waits_no_longer_than_told(self) -> None:
        self.folder.parent.joinpath("file").touch()
        bell = Bell(self.folder.parent / "file")
        bell.wait(0.01)
        bell.take_down()

    async def test_where_no_socket_fits_there_is_no_bell_and_ringing_does_nothing(self) -> None:
        deep = self.folder / ("x" * 120)
        self.assertFalse(Bell(deep).hang(self.heard.set))
        ring(deep)
        self.folder.parent.joinpath("file").touch()
        self.assertFalse(Bell(self.folder.parent / "file").hang(self.heard.set))

    async def test_where_the_system_gives_no_socket_nothing_is_raised(self) -> None:
        bell = self.hung()
        bell.take_down()
        self.folder.joinpath("1.bell").touch()
        with patch.object(neighbours.socket, "socket", side_effect=OSError("no such family")):
            self.assertFalse(bell.hang(self.heard.set))
            ring(self.folder)

    async def test_a_bell_that_rings_all_the_time_holds_nobody_up(self) -> None:
        self.hung()
        with patch.object(neighbours.os, "getpid", return_value=1):
            for _ in range(5000):
                ring(self.folder)
        await asyncio.wait_for(self.heard.wait(), 10)

    async def test_a_poller_looks_when_it_is_rung(self) -> None:
        events: list[tuple[int, str]] = []
        with (
            patch("nomothet.server.feed.poller._last", lambda: len(events)),
            patch("nomothet.server.feed.poller._read", lambda number: events[number:]),
            patch("nomothet.server.feed.poller.RUNG_POLL_S", 3600.0),
        ):
            poller = Poller(Bell(self.folder))
            listening = asyncio.create_task(anext(poller.events(0)))
            while poller._from != 0:
                await asyncio.sleep(0.001)
            events.append((1, "something"))
            await asyncio.to_thread(rung_by_another, self.folder)
            self.assertEqual(await asyncio.wait_for(listening, 10), events)


class Working(TestCase):
    """Workers are told of what is queued, once they can see it."""

    def test_a_worker_is_rung_at_when_what_is_queued_is_stored(self) -> None:
        folder = Path("/nowhere")
        with override_settings(BELLS=folder), patch("nomothet.server.upkeep.ringing.ring") as rung:
            with self.captureOnCommitCallbacks() as waiting:
                tidy_captures.enqueue(1)
            rung.assert_not_called()
            for act in waiting:
                act()
            rung.assert_called_once_with(folder / "work")
