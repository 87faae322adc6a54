"""The agent: takes what is owed, runs it, sends it, and goes on after trouble."""

import json
import tempfile
import threading
import unittest
import uuid
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
import numpy as np

from nomothet.bench import agent as agent_module
from nomothet.bench.agent import Agent
from nomothet.bench.errors import BenchError
from nomothet.bench.job import Captured, Control, Job, PassResult
from nomothet.bench.spool import Spool
from tests.bench.fake_server import FakeServer


class StubMachine:
    """Finishes at once, or waits until it is interrupted."""

    def __init__(self, wait: bool = False) -> None:
        self.ran: list[Job] = []
        self._wait = wait

    def inventory(self) -> dict[str, Any]:
        return {"processor": "stub"}

    def readings(self) -> dict[str, float]:
        return {"temperature": 41.5}

    def run(self, job: Job, folder: Path, control: Control) -> PassResult:
        self.ran.append(job)
        control.report("running", 0.0, 1.0, {"clock": 1.0})
        if self._wait:
            control.interrupted.wait(30)
        captured = Captured("frames", "frames", {"frame_ms": np.array([10.0, 11.0])}, "ms")
        outcome = "stopped" if control.over else "completed"
        return PassResult(outcome, datetime.now(UTC), 0.02, captures=[captured], owe_again=control.over)

    def recover(self, job: Job, folder: Path) -> PassResult:
        return PassResult("crashed", datetime.now(UTC), 0.0, "killed", owe_again=True)


class AgentTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.spool = Spool(Path(folder.name))
        self.server = FakeServer()
        self.machine = StubMachine()
        for name in ("_ASK_S", "_AWAY_S", "_REPORT_S"):
            self.addCleanup(setattr, agent_module, name, getattr(agent_module, name))
            setattr(agent_module, name, 0.01)

    def agent(self, machine: StubMachine | None = None) -> Agent:
        return Agent(machine or self.machine, self.spool, self.server.client(), until_idle=True)

    def test_everything_owed_is_run_and_sent(self) -> None:
        for _ in range(3):
            self.server.owe({})
        self.agent().run()
        self.assertEqual([job.entry for job in self.machine.ran], [1, 2, 3])
        self.assertEqual(len(self.server.whole), 3)

    def test_asking_tells_how_the_idle_machine_is(self) -> None:
        self.agent().run()
        self.assertEqual(self.server.readings, [{"temperature": 41.5}])

    def test_an_answer_lost_on_its_way_costs_no_pass(self) -> None:
        self.server.owe({})
        lost = False

        def lose_once(request: httpx.Request) -> httpx.Response | None:
            nonlocal lost
            if request.url.path.endswith("/next") and not lost:
                lost = True
                self.server.trouble = lambda request: None
                self.server._answer(request)
                raise httpx.ReadTimeout("lost")
            return None

        self.server.trouble = lose_once
        self.agent().run()
        self.assertEqual(len(self.server.whole), 1)
        self.assertEqual(len(self.server.taken), 1)

    def test_a_server_that_is_away_is_waited_for(self) -> None:
        self.server.owe({})
        refusals = iter([httpx.Response(503)] * 4)
        self.server.trouble = lambda request: next(refusals, None)
        self.agent().run()
        self.assertEqual(len(self.server.whole), 1)

    def test_a_pass_broken_off_by_a_kill_is_sent_as_such_after_the_start(self) -> None:
        pass_id = uuid.uuid4()
        job = Job(7, 1, "w", "1", "r", [], {}, "c", {})
        self.spool.open(pass_id, job)
        self.agent().run()
        manifest = self.server.manifests[str(pass_id)]
        self.assertEqual((manifest["entry"], manifest["outcome"], manifest["owe_again"]), (7, "crashed", True))
        self.assertEqual(self.server.holding, [str(pass_id)])

    def test_ending_breaks_the_pass_off_and_still_sends_it(self) -> None:
        self.server.owe({})
        machine = StubMachine(wait=True)
        agent = self.agent(machine)
        thread = threading.Thread(target=agent.run)
        thread.start()
        self.assertTrue(self.server.told.wait(10))
        agent.end()
        thread.join(10)
        self.assertFalse(thread.is_alive())
        (manifest,) = self.server.manifests.values()
        self.assertTrue(manifest["owe_again"])
        self.assertEqual(self.server.progress[0]["phase"], "running")

    def test_an_unknown_token_ends_the_bench_with_the_servers_words(self) -> None:
        self.server.trouble = lambda request: httpx.Response(401, json={"detail": "This bench token is not known."})
        with self.assertRaisesRegex(BenchError, "not known"):
            self.agent().run()


class Blocked(AgentTest):
    """One pass that the server cannot take holds up no other, and is lost nowhere."""

    def bad(self, answer: httpx.Response) -> None:
        """The server answers so to everything about the first pass."""
        first: list[str] = []

        def trouble(request: httpx.Request) -> httpx.Response | None:
            parts = request.url.path.split("/")
            if "passes" not in parts:
                return None
            pass_id = parts[parts.index("passes") + 1]
            first[:] = first or [pass_id]
            return answer if pass_id == first[0] else None

        self.server.trouble = trouble
        for _ in range(2):
            self.server.owe({})

    def test_a_pass_that_is_refused_is_told_with_its_reason_and_the_others_arrive(self) -> None:
        self.bad(httpx.Response(422, json={"detail": "Two series have the same name."}))
        self.agent().run()
        self.assertEqual(len(self.server.whole), 1)
        (told,) = self.server.set_aside
        self.assertEqual((told["reason"], self.server.hellos), ("Two series have the same name.", 2))

    def test_a_pass_on_which_the_server_fails_again_and_again_is_set_aside(self) -> None:
        self.bad(httpx.Response(500, json={"detail": "mistake"}))
        self.agent().run()
        self.assertEqual(len(self.server.whole), 1)
        self.assertIn("failed on it 3 times", self.server.set_aside[0]["reason"])

    def test_a_server_that_restarts_is_waited_for_instead(self) -> None:
        left = [5]

        def trouble(request: httpx.Request) -> httpx.Response | None:
            if "passes" in request.url.path and left[0]:
                left[0] -= 1
                return httpx.Response(503)
            return None

        self.server.trouble = trouble
        self.server.owe({})
        self.agent().run()
        self.assertEqual((len(self.server.whole), self.server.set_aside), (1, []))

    def test_a_proxy_that_refuses_is_no_server_that_does(self) -> None:
        for status in (403, 413):
            left = [4]

            def trouble(request: httpx.Request, left: list[int] = left, status: int = status) -> httpx.Response | None:
                if "passes" in request.url.path and left[0]:
                    left[0] -= 1
                    return httpx.Response(status, text="<html>Request refused</html>")
                return None

            with self.subTest(status=status):
                self.server.trouble = trouble
                self.server.owe({})
                before = len(self.server.whole)
                self.agent().run()
                self.assertEqual((len(self.server.whole), self.server.set_aside), (before + 1, []))

    def test_what_was_set_aside_is_sent_again_when_somebody_asks(self) -> None:
        self.bad(httpx.Response(422, json={"detail": "no"}))
        self.agent().run()
        self.server.trouble = lambda request: None
        self.server.send_again = True
        self.agent().run()
        self.assertEqual((len(self.server.whole), self.server.set_aside), (2, []))
        self.assertEqual(self.spool.kept_aside(), [])

    def test_a_bench_whose_token_another_one_holds_waits_and_does_not_greet_anew(self) -> None:
        left = [3]

        def trouble(request: httpx.Request) -> httpx.Response | None:
            if request.url.path.endswith("/next") and left[0]:
                left[0] -= 1
                return httpx.Response(409, json={"detail": "Another bench speaks with the same token."})
            return None

        self.server.trouble = trouble
        self.server.owe({})
        self.agent().run()
        self.assertEqual((len(self.server.whole), self.server.hellos), (1, 1))


class ToldToEnd(AgentTest):
    def waiting_agent(self) -> Agent:
        return Agent(self.machine, self.spool, self.server.client())

    def test_a_signal_ends_a_bench_that_waits_for_the_server(self) -> None:
        agent = self.waiting_agent()
        asked: list[float] = []

        def signal_while_it_waits(request: httpx.Request) -> httpx.Response | None:
            if request.url.path.endswith("/next"):
                asked.append(json.loads(request.content)["wait_s"])
                agent.end_by_signal()
            return None

        self.server.trouble = signal_while_it_waits
        agent.run()
        self.assertEqual(len(asked), 1)
        self.assertGreater(asked[0], 0)

    def test_a_signal_at_any_other_moment_raises_nothing(self) -> None:
        agent = self.waiting_agent()
        agent.end_by_signal()
        agent.run()
        self.assertEqual(self.machine.ran, [])

    def test_a_signal_while_a_wait_holds_the_lock_blocks_nothing(self) -> None:
        agent = self.waiting_agent()
        over = agent._over
        with over._cond:  # type: ignore[attr-defined]
            agent.end_by_signal()
        agent.run()
        self.assertTrue(over.is_set())

    def test_who_ends_when_idle_does_not_wait(self) -> None:
        asked: list[bool] = []

        def look(request: httpx.Request) -> httpx.Response | None:
            if request.url.path.endswith("/next"):
                asked.append("wait_s" in json.loads(request.content))
            return None

        self.server.trouble = look
        self.agent().run()
        self.assertEqual(asked, [False])
