"""One poller serves all who listen: nothing is missed, whoever comes when, and the database is asked once for all."""

import asyncio
import unittest
from unittest.mock import patch

from nomothet.server.feed import poller as module
from nomothet.server.feed.poller import Event, Poller


class Store:
    """A feed in memory, which counts how often it is read."""

    def __init__(self) -> None:
        self.events: list[Event] = []
        self.reads = 0

    def add(self, count: int = 1) -> None:
        for _ in range(count):
            number = len(self.events) + 1
            self.events.append((number, f"change {number}"))

    def read(self, number: int) -> list[Event]:
        self.reads += 1
        return [event for event in self.events if event[0] > number][:500]

    def last(self) -> int:
        return len(self.events)


class Listening(unittest.IsolatedAsyncioTestCase):
    def setUp(self) -> None:
        self.store = Store()
        for name, replacement in (("_read", self.store.read), ("_last", self.store.last), ("POLL_S", 0.001)):
            patcher = patch.object(module, name, replacement)
            patcher.start()
            self.addCleanup(patcher.stop)

    async def take(self, poller: Poller, after: int, count: int) -> list[int]:
        """The numbers of the next changes after one."""
        found: list[int] = []
        async for events in poller.events(after):
            found += [number for number, _ in events]
            if len(found) >= count:
                return found
        return found

    async def test_every_listener_gets_every_change_once(self) -> None:
        poller = Poller()
        self.store.add(3)
        listening = [asyncio.create_task(self.take(poller, after, 9 - after)) for after in (0, 2, 3)]
        while not self.store.reads:
            await asyncio.sleep(0)
        for _ in range(6):
            self.store.add()
            await asyncio.sleep(0.002)
        found = await asyncio.wait_for(asyncio.gather(*listening), 10)
        self.assertEqual(found, [list(range(after + 1, 10)) for after in (0, 2, 3)])

    async def test_what_its_own_process_announces_is_told_without_waiting_for_the_next_look(self) -> None:
        poller = Poller()
        # It would look again in an hour.
        with patch.object(module, "POLL_S", 3600.0):
            listening = asyncio.create_task(self.take(poller, 0, 2))
            while poller not in module._polling:
                await asyncio.sleep(0)
            for _ in range(2):
                self.store.add()
                # As a view does, which runs in a thread of its own.
                await asyncio.to_thread(module.wake)
            self.assertEqual(await asyncio.wait_for(listening, 10), [1, 2])

    async def test_who_is_far_behind_catches_up_from_the_database(self) -> None:
        poller = Poller()
        self.store.add(5000)
        self.assertEqual(await asyncio.wait_for(self.take(poller, 100, 4900), 10), list(range(101, 5001)))

    async def test_many_listeners_cost_no_more_reads_than_one(self) -> None:
        async def reads(listeners: int) -> int:
            poller = Poller()
            self.store.reads = 0
            start = self.store.last()
            tasks = [asyncio.create_task(self.take(poller, start, 5)) for _ in range(listeners)]
            while poller._from is None:
                await asyncio.sleep(0)
            for _ in range(5):
                self.store.add()
                upto = self.store.last()
                while poller._upto < upto:
                    await asyncio.sleep(0)
            await asyncio.wait_for(asyncio.gather(*tasks), 10)
            return self.store.reads

        alone, together = await reads(1), await reads(40)
        # Each listener looks once before the poller has; after that all are served by the poller's own looks.
        self.assertLess(together - alone, 2 * 40)

    async def test_it_rests_when_nobody_listens(self) -> None:
        poller = Poller()
        self.store.add()
        await asyncio.wait_for(self.take(poller, 0, 1), 10)
        self.assertIsNone(poller._task)
