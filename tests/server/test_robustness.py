"""Whatever is sent, the answer is a result or a problem with its reason, never a failure of the server."""

import uuid

from django.test import override_settings
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase

from nomothet.formats.errors import BadSeries
from nomothet.formats.series import unpack
from nomothet.server.passes.models import Pass
from tests.server.base import BenchClient, Browser, Scene, SceneTest, manifest

TABLES = st.one_of(
    st.binary(max_size=300),
    st.text(max_size=300).map(str.encode),
    st.lists(st.one_of(st.floats(), st.text(max_size=6), st.integers()).map(str), max_size=30).map(
        lambda rows: "\n".join(["frame_ms", *rows]).encode()
    ),
)


@override_settings(PASSWORD_HASHERS=["tests.server.fast_hasher.FastArgon2"])
class AnyFile(HypothesisTestCase):
    @settings(max_examples=80)
    @given(TABLES)
    def test_any_file_becomes_a_pass_or_is_refused_with_its_reason(self, content: bytes) -> None:
        scene = Scene()
        path = f"/api/reviews/{scene.review.pk}/tests/{scene.tests[0].pk}/columns/{scene.columns[0].pk}"
        answer = Browser("tester").drop_file(f"{path}/frames/{uuid.uuid4()}", content)
        self.assertIn(answer.status_code, (201, 400, 422), answer.content)
        self.assertEqual(Pass.objects.count(), 1 if answer.status_code == 201 else 0)
        if answer.status_code == 422:
            self.assertGreater(len(answer.json()["detail"]), 10)

    @settings(max_examples=60)
    @given(st.binary(max_size=200))
    def test_any_bytes_as_a_series_are_refused(self, blob: bytes) -> None:
        with self.assertRaises(BadSeries):
            unpack(b"NMS1" + blob)


class OddRequests(SceneTest):
    def test_numbers_out_of_range_and_words_for_numbers(self) -> None:
        browser = Browser("reader")
        pass_id = self.fill(0, [60.0])[0]
        for query in ("points=-5", "points=1e9", "from=5&to=1", "from=-9&to=99", "points=nan"):
            answer = browser.get(f"/api/passes/{pass_id}/trace?{query}")
            self.assertIn(answer.status_code, (200, 422), (query, answer.content))
        self.problem(browser.get(f"/api/passes/{pass_id}/trace?points=many"), 422)

    def test_bodies_that_are_no_objects(self) -> None:
        browser = Browser("editor")
        for body in ([], "text", 5, None, {"verdict": {"a": 1}}, {"margin": "much"}):
            answer = browser.send("patch", self.review_path, body, **{"If-Match": '"v1"'})
            self.assertIn(answer.status_code, (200, 400), (body, answer.content))

    def test_a_series_that_is_none_is_refused_and_the_upload_stays_open(self) -> None:
        (entry,) = self.scene.owe()
        pass_id, _ = self.bench.take()
        blob = b"these are not the bytes of a series"
        self.bench.send("put", f"/passes/{pass_id}", manifest(entry.pk, {"frames": blob}))
        self.bench.chunk(pass_id, "frames", 0, blob)
        self.problem(self.bench.send("post", f"/passes/{pass_id}/finish"), 422)
        self.assertIsNone(Pass.objects.get().whole_at)

    def test_a_chunk_without_its_offset_is_refused(self) -> None:
        (entry,) = self.scene.owe()
        pass_id, _ = self.bench.take()
        self.bench.send("put", f"/passes/{pass_id}", manifest(entry.pk, {"frames": b"x"}))
        path = f"/api/bench/passes/{pass_id}/series/frames"
        for query in ("", "?offset=-1", "?offset=x"):
            answer = self.bench.client.put(path + query, b"x", content_type="application/octet-stream")
            self.problem(answer, 422)

    def test_unknown_tokens_and_schemes(self) -> None:
        for header in ("Bench", "Bench ", "Bench wrong", "Basic abc"):
            client = BenchClient("x")
            client.client.defaults["HTTP_AUTHORIZATION"] = header
            answer = client.client.post(
                "/api/bench/hello", "{}", content_type="application/json", headers={"Authorization": header}
            )
            self.problem(answer, 401)
