"""What a bench of the version before said, as it was recorded then: this server understands it and answers it."""

import base64
import hashlib
import json
import uuid
from typing import Any

import numpy as np

from nomothet.bench.job import Job
from nomothet.formats.series import pack
from nomothet.server.passes.models import Pass
from tests.server.base import SceneTest

# Of 0.1.0: no clock, no wish to wait, no name of the process, nothing set aside.
HELLO = '{"inventory": {"system": "A Linux", "processor": "eight cores"}, "holding": []}'
NEXT = '{"pass_id": "%s", "readings": {"processor use": 2.5}}'
PROGRESS = '{"phase": "running", "elapsed_s": 3.2, "left_s": 56.8, "readings": {"power": 34.8}}'
MANIFEST = """
{"entry": %d, "outcome": "completed", "note": "", "started_at": "2026-05-04T10:00:00+00:00", "duration_s": 60.0,
 "environment": {"system": "A Linux"}, "owe_again": false, "figures": [], "attempts": [],
 "series": [{"name": "frames", "kind": "frames", "unit": "ms", "place": "", "source": "its own frames",
             "capacity": null, "starts_at_s": 0.0, "size": %d, "sha256": "%s"}],
 "inline": {"frames": "%s"}}
"""


class OlderBench(SceneTest):
    def say(self, method: str, path: str, recorded: str) -> dict[str, Any]:
        answer = self.bench.send(method, path, json.loads(recorded))
        self.assertEqual(answer.status_code, 200, answer.content)
        return dict(json.loads(answer.content))

    def test_a_pass_comes_in_by_the_exchange_of_then(self) -> None:
        self.assertEqual(self.say("post", "/hello", HELLO), {"system": "Wren", "key": "wren"})
        self.assertEqual(self.bench.send("post", "/next", json.loads(NEXT % uuid.uuid4())).status_code, 204)
        entry, pass_id = self.scene.owe()[0], uuid.uuid4()
        job = self.say("post", "/next", NEXT % pass_id)
        self.assertEqual(job["entry"], entry.pk)
        self.assertEqual(set(job), {"entry", "number", "workload", "attempts", "recorder", "test", "configuration"})
        self.assertEqual(self.say("post", f"/docket/{entry.pk}/progress", PROGRESS), {"stop": False})
        blob = pack({"frame_ms": np.full(600, 100.0)})
        told = (entry.pk, len(blob), hashlib.sha256(blob).hexdigest(), base64.b64encode(blob).decode())
        self.assertEqual(self.say("put", f"/passes/{pass_id}", MANIFEST % told)["received"], {"frames": len(blob)})
        self.assertEqual(self.say("post", f"/passes/{pass_id}/finish", "null"), {"whole": True})
        owner = Pass.objects.get()
        self.assertIsNotNone(owner.whole_at)
        self.assertFalse(owner.time_doubtful)
        self.assertEqual(owner.figures.get(metric="average_fps").value, 10.0)

    def test_what_this_server_answers_is_read_by_a_bench_that_knows_fewer_words(self) -> None:
        """A bench takes of an answer what it knows: words that were added since do not trouble it."""
        self.scene.owe()
        answer = self.say("post", "/next", NEXT % uuid.uuid4())
        job = Job.from_server({**answer, "added_later": {"x": 1}, "workload": {**answer["workload"], "later": 1}})
        self.assertEqual(job.entry, answer["entry"])

    def test_an_inventory_without_end_is_refused(self) -> None:
        self.problem(self.bench.send("post", "/hello", {"inventory": {"a": "x" * 70_000}}), 400)
