"""A small team with a small review, and helpers that speak to the API as a browser or a bench does."""

import hashlib
import json
import uuid
from collections.abc import Sequence
from typing import Any

import numpy as np
from django.conf import settings
from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
from django.core.cache import cache
from django.db import transaction
from django.http import HttpResponse
from django.test import Client, TestCase, override_settings
from django.utils.crypto import get_random_string

from nomothet.formats.series import pack
from nomothet.server.docket.commands import ask_for_passes
from nomothet.server.docket.models import Entry
from nomothet.server.feed.commands import announce
from nomothet.server.people.models import User
from nomothet.server.people.sessions import SessionStore
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.commands import issue_demo_token
from nomothet.server.systems.models import Configuration, System
from nomothet.server.workloads.models import Workload
from tests.server.fast_hasher import FastArgon2

PASSWORD = "orchard-lantern-weir-73"
# Also known where no runner of tests lets its own name through.
_NAME = "localhost"
JSON = "application/json"


class Scene:
    """Four people, one system with two configurations, and a review of a scene and a suite."""

    def __init__(self) -> None:
        # The tables are emptied between tests, and numbers begin anew; the cache's table is none of Django's models.
        cache.clear()
        self.people = {
            role: User.objects.create(
                username=role, password=FastArgon2().encode(PASSWORD, "salt" * 4), display_name=role.title(), role=role
            )
            for role in ("reader", "tester", "editor", "admin")
        }
        self.system = System.objects.create(
            key="wren", name="Wren", simulated=True, changes_by="bench", on_mismatch="flag"
        )
        self.configurations = [
            Configuration.objects.create(
                system=self.system, name=f"Wren at {watts} W", settings={"power_limit_w": watts, "fan_profile": 2}
            )
            for watts in (35, 20)
        ]
        self.scene = Workload.objects.create(
            key="reef-walk", name="Reef Walk 2", version="2.3", kind="scene", runner="simulated"
        )
        self.suite = Workload.objects.create(
            key="loom",
            name="Loom",
            version="4",
            kind="suite",
            runner="simulated",
            metrics=[
                {"key": "one_thread", "label": "one thread", "unit": "points", "direction": "higher", "scale": "ratio"}
            ],
        )
        self.review = self.new_review("dome-power", "How little power can the dome PCs draw?")
        self.columns = list(self.review.columns.all())
        self.tests = list(self.review.tests.all())
        self.token = issue_demo_token(self.system)
        self.bench = self.system.bench

    def new_review(self, key: str, question: str) -> Review:
        review = Review.objects.create(
            key=key,
            question=question,
            factors=[{"key": "power_limit", "name": "power limit", "aspects": ["power_limit_w"], "levels": []}],
            target_fps=60,
            editor=self.people["editor"],
        )
        for at, configuration in enumerate(self.configurations):
            Column.objects.create(
                review=review,
                position=at,
                configuration=configuration,
                label=configuration.name.split(" at ")[-1],
                is_baseline=at == 0,
            )
        Test.objects.create(
            review=review, position=0, workload=self.scene, detail="kelp tunnel", shown=["average_fps", "low_1pct"]
        )
        Test.objects.create(review=review, position=1, workload=self.suite, detail="all parts", shown=["one_thread"])
        # As whoever makes one does, so that nobody takes what an earlier test has found in order for all there is.
        with transaction.atomic():
            announce("review", review=review.pk)
        return review

    def owe(self, test: int = 0, column: int = 0, count: int = 1) -> list[Entry]:
        chosen = ([self.tests[test].pk], [self.columns[column].pk])
        return ask_for_passes(self.people["tester"], self.review, *chosen, count)

    def fill(self, column: int, rates: Sequence[float], seed: int = 1) -> list[str]:
        """Passes of the scene with these average rates."""
        self.owe(column=column, count=len(rates))
        bench = BenchClient(self.token)
        return [bench.deliver(steady(rate, seed=seed + at)) for at, rate in enumerate(rates)]


class Browser:
    """Somebody who has signed in before, with CSRF checks on as in a real browser."""

    def __init__(self, username: str | None = None) -> None:
        self.client = Client(enforce_csrf_checks=True, SERVER_NAME=_NAME)
        self.client.cookies[settings.CSRF_COOKIE_NAME] = get_random_string(32)
        if username is not None:
            self.client.cookies[settings.SESSION_COOKIE_NAME] = _session(User.objects.get(username=username))

    def get(self, path: str, **headers: str) -> HttpResponse:
        return self.client.get(path, headers=headers)

    def json(self, path: str) -> Any:
        return json.loads(self.get(path).content)

    def send(self, method: str, path: str, body: object = None, **headers: str) -> HttpResponse:
        headers["X-CSRFToken"] = self.client.cookies["csrftoken"].value
        call = getattr(self.client, method)
        return call(path, data=json.dumps(body), content_type=JSON, headers=headers)

    def drop_file(self, path: str, content: bytes, name: str = "run.csv") -> HttpResponse:
        """A multipart body by hand: Django's client only makes them for POST."""
        boundary = "----cut"
        head = (
            f'--{boundary}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n'
            "Content-Type: text/csv\r\n\r\n"
        )
        data = head.encode() + content + f"\r\n--{boundary}--\r\n".encode()
        headers = {"X-CSRFToken": self.client.cookies["csrftoken"].value}
        return self.client.generic("PUT", path, data, f"multipart/form-data; boundary={boundary}", headers=headers)


def _session(user: User) -> str:
    """The key of a session that somebody has begun before; Django's own way asks the database three times as much."""
    session = SessionStore()
    session.update({
        SESSION_KEY: str(user.pk),
        BACKEND_SESSION_KEY: settings.AUTHENTICATION_BACKENDS[0],
        HASH_SESSION_KEY: user.get_session_auth_hash(),
    })  # fmt: skip
    session.create()
    return str(session.session_key)


class BenchClient:
    """Requests with a bench token."""

    def __init__(self, token: str) -> None:
        self.client = Client(headers={"Authorization": f"Bench {token}"}, SERVER_NAME=_NAME)

    def send(self, method: str, path: str, body: object = None) -> HttpResponse:
        return getattr(self.client, method)(f"/api/bench{path}", data=json.dumps(body), content_type=JSON)

    def chunk(self, pass_id: str, name: str, offset: int, data: bytes) -> HttpResponse:
        return self.client.put(
            f"/api/bench/passes/{pass_id}/series/{name}?offset={offset}", data, content_type="application/octet-stream"
        )

    def take(self) -> tuple[str, dict[str, Any]]:
        pass_id = str(uuid.uuid4())
        answer = self.send("post", "/next", {"pass_id": pass_id})
        return pass_id, json.loads(answer.content) if answer.status_code == 200 else {}

    def deliver(self, frames: np.ndarray | None = None, outcome: str = "completed", **changes: Any) -> str:
        """Take the next owed pass and bring it in."""
        pass_id, job = self.take()
        assert job, "nothing is owed"
        blob = pack({"frame_ms": frames}) if frames is not None else b""
        body = manifest(job["entry"], {"frames": blob} if blob else {}, outcome=outcome, **changes)
        assert self.send("put", f"/passes/{pass_id}", body).status_code == 200
        if blob:
            assert self.chunk(pass_id, "frames", 0, blob).status_code == 200
        answer = self.send("post", f"/passes/{pass_id}/finish")
        assert answer.status_code == 200, answer.content
        return pass_id


def manifest(entry: int, blobs: dict[str, bytes], **changes: Any) -> dict[str, Any]:
    """What a bench announces for some series."""
    series = [
        {
            "name": name,
            "kind": "frames" if name == "frames" else "sensor",
            "unit": "ms",
            "size": len(blob),
            "sha256": hashlib.sha256(blob).hexdigest(),
        }
        for name, blob in blobs.items()
    ]
    return {
        "entry": entry,
        "outcome": "completed",
        "started_at": "2026-05-04T10:00:00+00:00",
        "duration_s": 60.0,
        "environment": {},
        "figures": [],
        "series": series,
        **changes,
    }


def steady(fps: float, frames: int = 2000, seed: int = 1) -> np.ndarray:
    """Frame times around a rate."""
    return np.random.default_rng(seed).normal(1000 / fps, 0.1, frames)


@override_settings(PASSWORD_HASHERS=["tests.server.fast_hasher.FastArgon2"])
class SceneTest(TestCase):
    """Tests on the scene; each begins with it anew."""

    scene: Scene

    @classmethod
    def setUpTestData(cls) -> None:
        cls.scene = Scene()

    def setUp(self) -> None:
        self.bench = BenchClient(self.scene.token)
        self.review_path = f"/api/reviews/{self.scene.review.pk}"

    def cell_path(self, test: int = 0, column: int = 0) -> str:
        return f"{self.review_path}/tests/{self.scene.tests[test].pk}/columns/{self.scene.columns[column].pk}"

    def fill(self, column: int, rates: list[float], seed: int = 1) -> list[str]:
        """Passes of the scene with these average rates."""
        return self.scene.fill(column, rates, seed)

    def row(self, metric: str = "average_fps", who: str = "reader", query: str = "") -> Any:
        rows = Browser(who).json(f"{self.review_path}/matrix{query}")["rows"]
        return next(row for row in rows if row["metric"] == metric)

    def problem(self, answer: HttpResponse, status: int) -> dict[str, Any]:
        """Check that an answer is a problem object of RFC 9457 and return it."""
        self.assertEqual(answer.status_code, status, answer.content)
        self.assertEqual(answer.headers["Content-Type"], "application/problem+json")
        body: dict[str, Any] = json.loads(answer.content)
        self.assertLessEqual({"type", "title", "status", "detail"}, set(body))
        self.assertEqual(body["status"], status)
        return body
