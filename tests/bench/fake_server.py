"""A server in memory that speaks the bench protocol, and can fail on request."""

import hashlib
import json
import threading
import uuid
from collections.abc import Callable
from typing import Any

import httpx

from nomothet.bench.client import ServerClient

WORKLOAD = {"key": "lantern-room", "version": "1", "runner": "lantern-room", "metrics": []}


class FakeServer:
    """Passes by id: manifest, bytes per series, and whether they are whole."""

    def __init__(self) -> None:
        self.jobs: list[dict[str, Any]] = []
        self.taken: dict[str, dict[str, Any]] = {}
        self.manifests: dict[str, dict[str, Any]] = {}
        self.bytes: dict[str, dict[str, bytearray]] = {}
        self.whole: list[str] = []
        self.progress: list[dict[str, Any]] = []
        self.readings: list[dict[str, float]] = []
        self.told = threading.Event()
        self.stop = False
        self.holding: list[str] = []
        self.set_aside: list[dict[str, str]] = []
        self.hellos = 0
        self.send_again = False
        # Called before each request; raises httpx.ConnectError for a lost network.
        self.trouble: Callable[[httpx.Request], httpx.Response | None] = lambda request: None

    def client(self) -> ServerClient:
        return ServerClient("http://server", "token", httpx.MockTransport(self._answer))

    def owe(self, settings: dict[str, Any], configured: dict[str, Any] | None = None, **workload: Any) -> None:
        self.jobs.append(
            {
                "entry": len(self.jobs) + 1,
                "number": 1,
                "workload": {**WORKLOAD, **workload},
                "test": {"id": 1, "settings": settings},
                "configuration": {"name": "all threads", "settings": configured or {}},
            }
        )

    def _answer(self, request: httpx.Request) -> httpx.Response:
        failed = self.trouble(request)
        if failed is not None:
            return failed
        parts = request.url.path.removeprefix("/api/bench/").split("/")
        if parts[0] == "hello":
            told = json.loads(request.content)
            self.holding, self.set_aside = told["holding"], told["set_aside"]
            self.hellos += 1
            return httpx.Response(200, json={"system": "Test", "key": "test"})
        if parts[0] == "next":
            asked = json.loads(request.content)
            self.readings.append(asked["readings"])
            if self.send_again:
                self.send_again = False
                return httpx.Response(200, json={"send_again": True})
            return self._next(asked["pass_id"])
        if parts[0] == "docket":
            self.progress.append(json.loads(request.content))
            self.told.set()
            return httpx.Response(200, json={"stop": self.stop})
        return self._upload(request, parts)

    def _next(self, pass_id: str) -> httpx.Response:
        if pass_id not in self.taken:
            if not self.jobs:
                return httpx.Response(204)
            self.taken[pass_id] = self.jobs.pop(0)
        return httpx.Response(200, json=self.taken[pass_id])

    def _upload(self, request: httpx.Request, parts: list[str]) -> httpx.Response:
        pass_id = str(uuid.UUID(parts[1]))
        if len(parts) == 2:
            self.manifests.setdefault(pass_id, json.loads(request.content))
            series = self.bytes.setdefault(pass_id, {})
            for one in self.manifests[pass_id]["series"]:
                series.setdefault(one["name"], bytearray())
            return httpx.Response(200, json={"whole": pass_id in self.whole, "received": self._received(pass_id)})
        if parts[2] == "series":
            stored = self.bytes[pass_id][parts[3]]
            offset = int(request.url.params["offset"])
            if offset > len(stored):
                return httpx.Response(409, json={"detail": "gap", "received": len(stored)})
            stored[offset:] = request.content
            return httpx.Response(200, json={"received": len(stored)})
        for one in self.manifests[pass_id]["series"]:
            if hashlib.sha256(self.bytes[pass_id][one["name"]]).hexdigest() != one["sha256"]:
                self.bytes[pass_id][one["name"]].clear()
                return httpx.Response(409, json={"detail": "damaged", "received": self._received(pass_id)})
        self.whole.append(pass_id)
        return httpx.Response(200, json={"whole": True})

    def _received(self, pass_id: str) -> dict[str, int]:
        return {name: len(data) for name, data in self.bytes[pass_id].items()}
