"""What a service manager runs for a team: the commands of the units, with the names that it calls the server by."""

import signal
import subprocess
import sys
import threading
import time
from unittest import mock

import httpx

from nomothet.server.launch.ports import free_port
from nomothet.server.launch.run import Installation
from nomothet.server.upkeep.schema_state import SchemaState
from tests.launch.installation import DEADLINE_S, PROJECT, WithDatabase, environment_of

_NAME = "bench-room.example"


class ForATeam(WithDatabase):
    def start(self, *words: str) -> "subprocess.Popen[bytes]":
        environment = environment_of(self.var, self.database.port, NOMOTHET_HOSTS=f" {_NAME} ,", NOMOTHET_TLS="1")
        command = [sys.executable, "-m", "nomothet.server.launch.terminal"]
        process = subprocess.Popen(
            [*command, "--database-port", str(self.database.port), *words],
            env=environment, cwd=PROJECT, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        self.addCleanup(process.wait)
        self.addCleanup(process.send_signal, signal.SIGTERM)
        return process

    def test_server_and_worker_are_well_under_the_name_of_the_team_and_under_no_other(self) -> None:
        port = free_port()
        parts = [self.start("work"), self.start("serve", "--port", str(port), "--processes", "1")]
        deadline = time.monotonic() + DEADLINE_S
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=DEADLINE_S) as client:
            while self.state(client) != "well":
                self.assertLess(time.monotonic(), deadline)
                self.assertEqual([part.poll() for part in parts], [None, None])
                time.sleep(0.1)
            by_proxy = {"X-Forwarded-Proto": "https"}
            self.assertEqual(client.get("/", headers={"Host": _NAME, **by_proxy}).status_code, 200)
            plain = client.get("/reviews", headers={"Host": _NAME})
            self.assertEqual((plain.status_code, plain.headers["Location"]), (301, f"https://{_NAME}/reviews"))
            self.assertEqual(client.get("/api/session", headers={"Host": "x.example", **by_proxy}).status_code, 400)

    @staticmethod
    def state(client: httpx.Client) -> str:
        try:
            return str(client.get("/health").json()["status"])
        except (httpx.HTTPError, ValueError):
            return ""

    def test_the_link_of_a_first_admin_names_the_address_of_the_team(self) -> None:
        said = self.server("create-admin", "nora", "Nora Vale", NOMOTHET_ADDRESS=f"https://{_NAME}")
        self.assertIn(f"https://{_NAME}/welcome#", said.stdout, said.stderr)


class Tables(WithDatabase):
    def test_a_worker_waits_until_the_tables_are_there_or_it_is_asked_to_end(self) -> None:
        missing, there = SchemaState(3, ("reviews 0001_first",), ()), SchemaState(4, (), ())
        installation = Installation(self.var, 0, self.database.port)
        over = mock.Mock(spec=threading.Event)
        for answers, is_set, waits in (([missing, missing, there], False, 2), ([missing], True, 0)):
            over.is_set.return_value = is_set
            over.wait.reset_mock()
            with mock.patch("nomothet.server.upkeep.schema_state.schema_state", side_effect=answers):
                installation.wait_for_tables(over)
            self.assertEqual(over.wait.call_count, waits)
