#!/usr/bin/env python3
"""Three nodes of a Galera cluster on loopback, two servers that write to different ones, and benches and people who
write to both servers. In the middle a node is killed, and later started again.

Printed is how long writing stalled on either side, how often a server turned an act away, and what is there at the end
on the node that nobody wrote to: every pass that was answered for, once, with its frames; every comment, once; the feed
without a gap. Nothing lost and nothing doubled is status 0. It needs Debian's packages galera-4 and rsync.
"""

import argparse
import hashlib
import json
import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path

import httpx
import numpy as np
from private import PROJECT

from nomothet.formats.series import pack
from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.ports import free_port
from nomothet.server.launch.secrets import ensure_secrets
from nomothet.server.launch.serve import listening

_PROVIDER = "/usr/lib/galera/libgalera_smm.so"
_PATIENCE_S = 240.0
_SIDES = ("first", "second")
_MAKE = """
import json
from django.conf import settings
from django.core.management import call_command
call_command("migrate", verbosity=0)
call_command("createcachetable", verbosity=0)
from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.reviews.models import Column
from nomothet.server.systems.commands import issue_demo_token
from nomothet.server.systems.models import Configuration, System
from tests.server.base import Browser, Scene
scene = Scene()
tokens = []
for at in range({benches}):
    system = System.objects.create(key=f"bench-{{at}}", name=f"Bench {{at}}", simulated=True, changes_by="bench",
        on_mismatch="flag")
    held = Configuration.objects.create(system=system, name="as set up")
    column = Column.objects.create(review=scene.review, position=2 + at, configuration=held, label=f"b{{at}}")
    for _ in range({passes} // 10):
        ask_for_passes(scene.people["tester"], scene.review, [scene.tests[0].pk], [column.pk], 10)
    tokens.append(issue_demo_token(system))
people = [Browser(name).client.cookies for name in ("editor", "tester")]
print(json.dumps({{"tokens": tokens, "review": scene.review.pk, "people": [
    [one[settings.SESSION_COOKIE_NAME].value, one[settings.CSRF_COOKIE_NAME].value] for one in people]}}))
"""
_READ = """
import json
from nomothet.formats.series import unpack
from nomothet.server.docket.models import Entry
from nomothet.server.feed.models import Change
from nomothet.server.passes.models import Pass
from nomothet.server.talk.models import Comment
told = {str(p.pk): [p.number, p.column_id, float(unpack(p.series.get(name="frames").content)["frame_ms"].sum())]
    for p in Pass.objects.whole()}
print(json.dumps({"passes": told, "all": Pass.objects.count(),
    "comments": list(Comment.objects.values_list("text", flat=True)),
    "done": Entry.objects.filter(state="done").count(), "left": Entry.objects.filter(state="owed").count(),
    "changes": list(Change.objects.order_by("number").values_list("number", flat=True))}))
"""


class Node(PrivateDatabase):
    """A database that is a node of a cluster on loopback."""

    def __init__(self, folder: Path, password: str, at: int, ports: list[int]) -> None:
        super().__init__(folder, free_port(), password)
        self._at, self._ports = at, ports
        self.begins = False

    def _server_command(self, account: str | None) -> list[str]:
        own = self._ports[self._at]
        options = {
            "wsrep-on": "ON",
            "wsrep-provider": _PROVIDER,
            "wsrep-cluster-name": "measured",
            "wsrep-cluster-address": "gcomm://" + ",".join(f"127.0.0.1:{port}" for port in self._ports),
            "wsrep-node-address": f"127.0.0.1:{own}",
            "wsrep-node-name": f"node-{self._at + 1}",
            "wsrep-sst-method": "rsync",
            "wsrep-sst-receive-address": f"127.0.0.1:{own + 2}",
            "wsrep-provider-options": f"gmcast.listen_addr=tcp://127.0.0.1:{own};ist.recv_addr=127.0.0.1:{own + 1}",
            "binlog-format": "ROW",
            "default-storage-engine": "InnoDB",
            "innodb-autoinc-lock-mode": "2",
        }
        begins = ["--wsrep-new-cluster"] if self.begins else []
        return [*super()._server_command(account), *(f"--{name}={value}" for name, value in options.items()), *begins]

    def _wait_until_ready(self) -> None:
        """It takes over what the others have before it answers; under load that takes long."""
        deadline = time.monotonic() + _PATIENCE_S
        asked = [*self.client("mysql"), "-N", "-e", "SHOW STATUS LIKE 'wsrep_ready'"]
        while "ON" not in subprocess.run(asked, capture_output=True, text=True, check=False).stdout:
            if self.child is None or not self.child.running or time.monotonic() > deadline:
                raise SystemExit(f"a node did not join:\n{self._log_end()}")
            time.sleep(0.1)

    def _ensure_account(self) -> None:
        # The others have it from the first.
        if self.begins:
            super()._ensure_account()


class Writer:
    """Somebody who writes to one server, again and again until it is done, with the times at which it was."""

    def __init__(self, address: str) -> None:
        self.client = httpx.Client(base_url=address, timeout=30)
        self.done_at: list[float] = []
        self.answers: Counter[int] = Counter()

    def until(self, send: Callable[[], httpx.Response], *fine: int) -> httpx.Response:
        """Ask until it is answered as it should be; asking again is what benches do too."""
        deadline = time.monotonic() + _PATIENCE_S
        while time.monotonic() < deadline:
            try:
                answer = send()
            except httpx.HTTPError:
                self.answers[0] += 1
                time.sleep(0.2)
                continue
            self.answers[answer.status_code] += 1
            if answer.status_code in fine:
                self.done_at.append(time.monotonic())
                return answer
            if answer.status_code < 500:
                raise SystemExit(f"{answer.request.url} was answered {answer.status_code}: {answer.text[:300]}")
            time.sleep(0.2)
        raise SystemExit("a server did not come back")

    def longest_stall(self, after: float) -> float:
        """The longest time without a write from shortly before a moment on."""
        times = [at for at in self.done_at if at > after - 2]
        return max((later - earlier for earlier, later in pairwise(times)), default=0.0)


class Bench(Writer):
    """Takes passes and brings them in until nothing is owed."""

    def __init__(self, address: str, token: str, seed: int) -> None:
        super().__init__(address)
        self.client.headers["Authorization"] = f"Bench {token}"
        self.frames = np.random.default_rng(seed)
        self.brought: dict[str, float] = {}

    def run(self) -> None:
        while True:
            name = str(uuid.uuid4())
            job = self.until(lambda name=name: self.client.post("/api/bench/next", json={"pass_id": name}), 200, 204)  # type: ignore[misc]
            if job.status_code == 204:
                return
            frames = self.frames.normal(16.7, 0.1, 2000)
            self._bring(name, job.json()["entry"], pack({"frame_ms": frames}))
            self.brought[name] = float(frames.sum())

    def _bring(self, name: str, entry: int, blob: bytes) -> None:
        series = {"name": "frames", "kind": "frames", "unit": "ms", "size": len(blob)}
        body = {
            "entry": entry, "outcome": "completed", "started_at": "2026-05-04T10:00:00+00:00", "duration_s": 33.4,
            "environment": {}, "figures": [], "series": [{**series, "sha256": hashlib.sha256(blob).hexdigest()}],
        }  # fmt: skip
        path = f"/api/bench/passes/{name}"
        raw = {"Content-Type": "application/octet-stream"}
        self.until(lambda: self.client.put(path, json=body), 200)
        self.until(lambda: self.client.put(f"{path}/series/frames?offset=0", content=blob, headers=raw), 200)
        self.until(lambda: self.client.post(f"{path}/finish"), 200)


class Author(Writer):
    """Writes comments until it is over; only those that were answered for have to be there."""

    def __init__(self, address: str, name: str, review: int, session: str, token: str) -> None:
        super().__init__(address)
        self.client.cookies.update({"sessionid": session, "csrftoken": token})
        self.client.headers["X-CSRFToken"] = token
        self.path, self.name = f"/api/reviews/{review}/talk", name
        self.written: list[str] = []

    def run(self, over: threading.Event) -> None:
        number = 0
        while not over.wait(0.05):
            number += 1
            text = f"{self.name} {number}"
            try:
                answer = self.client.post(self.path, json={"about": "review", "text": text})
            except httpx.HTTPError:
                self.answers[0] += 1
                continue
            self.answers[answer.status_code] += 1
            if answer.status_code == 201:
                self.done_at.append(time.monotonic())
                self.written.append(text)


class Cluster:
    """Three nodes, and two servers on the first two."""

    def __init__(self, var: Path) -> None:
        self.var = var
        password = ensure_secrets(var)
        first = 20000 + os.getpid() % 20000
        ports = [first + 10 * at for at in range(3)]
        self.nodes = [Node(var / f"node-{at + 1}", password, at, ports) for at in range(3)]
        self.servers: list[subprocess.Popen[bytes]] = []
        self.addresses: list[str] = []
        self.sockets = []

    def script(self, text: str, node: Node) -> str:
        done = subprocess.run(
            [sys.executable, "-c", f"import django; django.setup()\n{text}"], env=self.environment(node), cwd=PROJECT,
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        if done.returncode:
            raise SystemExit(done.stderr[-3000:])
        return done.stdout.splitlines()[-1]

    def environment(self, node: Node) -> dict[str, str]:
        return {
            **os.environ, "NOMOTHET_VAR": str(self.var), "NOMOTHET_DATABASE_PORT": str(node.port),
            "NOMOTHET_CLUSTER": "1", "DJANGO_SETTINGS_MODULE": "nomothet.server.settings",
        }  # fmt: skip

    def start(self) -> None:
        for at, node in enumerate(self.nodes):
            node.begins = at == 0
            node.start()
            node.begins = False

    def serve(self) -> None:
        for node in self.nodes[:2]:
            port = free_port()
            opened = listening(port)
            self.sockets.append(opened)
            command = [sys.executable, "-m", "nomothet.server.launch.serve", "--fd", str(opened.fileno())]
            log = (self.var / "server.log").open("ab")
            self.servers.append(
                subprocess.Popen(
                    command, env=self.environment(node), stdout=log, stderr=log, pass_fds=[opened.fileno()]
                )
            )
            self.addresses.append(f"http://127.0.0.1:{port}")
        for writer in map(Writer, self.addresses):
            writer.until(lambda writer=writer: writer.client.get("/api/session"), 200)  # type: ignore[misc]

    def end(self) -> None:
        for server in self.servers:
            server.kill()
            server.wait()
        for opened in self.sockets:
            opened.close()
        for node in reversed(self.nodes):
            node.stop()


def main() -> int:
    """Run it, and compare what is there with what was answered for."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--benches", type=int, default=6, help="half of them at either server")
    parser.add_argument("--passes", type=int, default=60, help="of each bench; a multiple of ten")
    parser.add_argument("--kill-after", type=float, default=6.0, help="seconds")
    parser.add_argument("--away", type=float, default=10.0, help="seconds until the killed node is started again")
    arguments = parser.parse_args()
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        Path(folder).chmod(0o755)
        var = Path(folder) / "var"
        var.mkdir(mode=0o755)
        cluster = Cluster(var)
        try:
            cluster.start()
            made = json.loads(
                cluster.script(_MAKE.format(benches=arguments.benches, passes=arguments.passes), cluster.nodes[0])
            )
            cluster.serve()
            return _measure(cluster, made, arguments)
        finally:
            cluster.end()


def _measure(cluster: Cluster, made: dict[str, list[str]], arguments: argparse.Namespace) -> int:
    sides = cluster.addresses
    benches = [Bench(sides[at % 2], token, at) for at, token in enumerate(made["tokens"])]
    authors = [Author(sides[at], _SIDES[at], int(str(made["review"])), *made["people"][at]) for at in range(2)]
    over = threading.Event()
    writing = [threading.Thread(target=author.run, args=(over,)) for author in authors]
    running = [threading.Thread(target=bench.run) for bench in benches]
    began = time.monotonic()
    for thread in [*writing, *running]:
        thread.start()
    time.sleep(arguments.kill_after)
    node = cluster.nodes[0]
    assert node.child is not None
    killed_at = time.monotonic()
    print(f"{sum(len(one.brought) for one in benches)} passes were in when node 1 was killed", flush=True)
    os.kill(node.child.pid, signal.SIGKILL)
    node.child.stop()
    time.sleep(arguments.away)
    node.start()
    print(f"node 1 was a node again {time.monotonic() - killed_at:.1f} s after it was killed", flush=True)
    for thread in running:
        thread.join()
    over.set()
    for thread in writing:
        thread.join()
    took = time.monotonic() - began
    for side, name in enumerate(_SIDES):
        writers: list[Writer] = [*benches[side::2], authors[side]]
        stall = max(one.longest_stall(killed_at) for one in writers)
        answers = sum((one.answers for one in writers), Counter())
        print(f"{name} server: longest stall {stall:.1f} s; answers {dict(sorted(answers.items()))}")
    return _compare(json.loads(cluster.script(_READ, cluster.nodes[2])), benches, authors, took)


def _compare(found: dict[str, object], benches: list[Bench], authors: list[Author], took: float) -> int:
    brought = {name: frames_ms for bench in benches for name, frames_ms in bench.brought.items()}
    passes = dict(found["passes"])  # type: ignore[call-overload]
    written = [text for author in authors for text in author.written]
    there = Counter(found["comments"])  # type: ignore[call-overload]
    changes = list(found["changes"])  # type: ignore[call-overload]
    wrong = {
        "passes lost": sum(name not in passes for name in brought),
        "passes that nobody brought": sum(name not in brought for name in passes),
        "passes in part": int(str(found["all"])) - len(passes),
        "numbers given twice": len(passes) - len({(number, column) for number, column, _ in passes.values()}),
        "passes with other frames": sum(abs(passes[n][2] - ms) > 1e-6 for n, ms in brought.items() if n in passes),
        "comments lost": sum(text not in there for text in written),
        "comments doubled": sum(count > 1 for count in there.values()),
        "entries left": int(str(found["left"])),
        "gaps in the feed": sum(b != a + 1 for a, b in pairwise(changes)),
    }
    print(f"{len(passes)} passes, {len(written)} comments and {len(changes)} changes in {took:.0f} s")
    print(", ".join(f"{count} {words}" for words, count in wrong.items()))
    return int(any(wrong.values()))


if __name__ == "__main__":
    sys.exit(main())
