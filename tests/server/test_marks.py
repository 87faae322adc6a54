"""Marks, impressions and pictures on passes, while they run and afterwards."""

import io
import json
from contextlib import AbstractContextManager
from datetime import timedelta
from typing import Any
from unittest import mock

import numpy as np
from django.test import Client
from PIL import Image

from nomothet.core.frames import frame_figures
from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Mark, Pass, Picture
from tests.server.base import Browser, SceneTest, steady


class MarkTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.tester = Browser("tester")

    def upload(self, path: str, content: bytes, name: str = "photo.jpg", who: Browser | None = None) -> Any:
        """A multipart POST with the session and its CSRF token."""
        client: Client = (who or self.tester).client
        file = io.BytesIO(content)
        file.name = name
        headers = {"X-CSRFToken": client.cookies["csrftoken"].value}
        return client.post(path, {"file": file}, headers=headers)


class Running(MarkTest):
    def setUp(self) -> None:
        super().setUp()
        self.scene.owe()
        self.pass_id, job = self.bench.take()
        self.entry = job["entry"]
        self.tell(10.0)
        self.path = f"/api/docket/{self.entry}/marks"

    def tell(self, elapsed: float) -> None:
        self.bench.send(
            "post", f"/docket/{self.entry}/progress", {"phase": "running", "elapsed_s": elapsed, "left_s": 50}
        )

    def later(self, seconds: float) -> AbstractContextManager[object]:
        """The moment so long after the bench last told how far it is."""
        told_at = Entry.objects.get(pk=self.entry).told_at
        assert told_at is not None
        moment = told_at + timedelta(seconds=seconds)
        return mock.patch("nomothet.server.intake.marking.timezone.now", return_value=moment)

    def add(self, **fields: Any) -> dict[str, Any]:
        answer = self.tester.send("post", self.path, fields)
        self.assertEqual(answer.status_code, 201, answer.content)
        return dict(json.loads(answer.content))

    def test_a_mark_stands_on_the_clock_of_the_pass(self) -> None:
        with self.later(1.5):
            self.assertEqual(self.add(label="menu")["start_s"], 11.5)

    def test_a_span_ends_when_it_is_pressed_again(self) -> None:
        made = self.add(label="crowd")
        self.tell(25.0)
        with self.later(0.25):
            ended = json.loads(self.tester.send("post", f"/api/marks/{made['id']}").content)
        self.assertEqual(ended["end_s"], 25.25)
        self.assertEqual([one["label"] for one in self.tester.json(self.path)], ["crowd"])

    def test_marks_are_on_the_pass_once_it_is_in(self) -> None:
        self.add(label="stutter", grade=2)
        body = {"entry": self.entry, "outcome": "completed", "started_at": "2026-05-04T10:00:00Z", "duration_s": 60}
        self.bench.send("put", f"/passes/{self.pass_id}", body)
        self.bench.send("post", f"/passes/{self.pass_id}/finish")
        shown = self.tester.json(self.cell_path())["passes"][0]["marks"]
        self.assertEqual([(one["label"], one["grade"]) for one in shown], [("stutter", 2)])
        self.problem(self.tester.send("post", self.path, {"label": "late"}), 409)

    def test_a_grade_outside_the_scale_and_a_reader_are_refused(self) -> None:
        self.problem(self.tester.send("post", self.path, {"label": "lag", "grade": 9}), 400)
        self.problem(Browser("reader").send("post", self.path, {"label": "lag"}), 403)

    def test_a_mark_by_mistake_is_taken_off(self) -> None:
        made = self.add(label="menu")
        self.assertEqual(self.tester.send("delete", f"/api/marks/{made['id']}").status_code, 204)
        self.assertEqual((Mark.objects.count(), Mark.every.count()), (0, 1))
        self.problem(Browser("reader").send("put", f"/api/marks/{made['id']}/back"), 403)
        self.assertEqual(self.tester.send("put", f"/api/marks/{made['id']}/back").status_code, 204)
        self.assertEqual(Mark.objects.get().label, "menu")
        self.problem(self.tester.send("put", f"/api/marks/{made['id']}/back"), 404)
        history = Browser("reader").json(f"/api/history/review/{self.scene.review.pk}")
        self.assertEqual({one["act"] for one in history} & {"mark taken off", "mark put back"}, {
            "mark taken off", "mark put back"
        })  # fmt: skip

    def test_what_was_told_in_the_last_minutes_is_there_for_who_looks_in(self) -> None:
        for elapsed in (11.0, 12.0):
            body = {"phase": "drawing", "elapsed_s": elapsed, "left_s": 40, "readings": {"temperature": 60 + elapsed}}
            self.bench.send("post", f"/docket/{self.entry}/progress", body)
        live = Browser("reader").json(f"/api/docket/{self.entry}/live")
        self.assertEqual([one["elapsed_s"] for one in live["points"]], [10.0, 11.0, 12.0])
        self.assertEqual(live["points"][-1]["readings"], {"temperature": 72.0})
        self.assertEqual((live["state"], live["progress"]["phase"]), ("running", "drawing"))
        self.assertIsNotNone(live["told_at"])


class Afterwards(MarkTest):
    def test_a_span_of_frames_has_figures_of_its_own(self) -> None:
        frames = np.concatenate([steady(100, 600), steady(50, 300, seed=2)])
        self.scene.owe()
        pass_id = self.bench.deliver(frames)
        body = {"label": "crowd", "start_s": float(frames[:600].sum() / 1000) + 1e-6, "end_s": 60.0}
        answer = self.tester.send("post", f"/api/passes/{pass_id}/marks", body)
        self.assertEqual(answer.status_code, 201, answer.content)
        (mark,) = self.tester.json(self.cell_path())["passes"][0]["marks"]
        expected = frame_figures(frames[600:])
        self.assertAlmostEqual(mark["average_fps"], expected.average_fps, places=6)
        self.assertTrue(mark["low_thin"])

    def test_a_span_that_ends_before_it_begins_is_refused(self) -> None:
        (pass_id,) = self.fill(0, [60.0])
        self.problem(
            self.tester.send("post", f"/api/passes/{pass_id}/marks", {"label": "x", "start_s": 5, "end_s": 4}), 422
        )
        self.problem(self.tester.send("post", f"/api/passes/{pass_id}/marks", {"label": "x"}), 422)


def photo(kind: str = "JPEG", size: tuple[int, int] = (640, 400), **options: Any) -> bytes:
    out = io.BytesIO()
    Image.effect_noise(size, 60).convert("RGB").save(out, kind, **options)
    return out.getvalue()


class Pictures(MarkTest):
    def setUp(self) -> None:
        super().setUp()
        (pass_id,) = self.fill(0, [60.0])
        self.owner = Pass.objects.get(pk=pass_id)
        self.path = f"/api/passes/{pass_id}/pictures"

    def test_metadata_is_gone_and_the_picture_upright(self) -> None:
        exif = Image.Exif()
        exif[0x0112] = 6
        exif[0x010F] = "camera of somebody"
        content = photo(exif=exif)
        self.assertIn(b"camera of somebody", content)
        self.assertEqual(self.upload(self.path, content).status_code, 201)
        kept = Picture.objects.get()
        self.assertNotIn(b"camera of somebody", bytes(kept.blob))
        with Image.open(io.BytesIO(bytes(kept.blob))) as picture:
            self.assertEqual((picture.size, dict(picture.getexif())), ((400, 640), {}))

    def test_every_kind_comes_back_large_and_small(self) -> None:
        for kind in ("JPEG", "PNG", "WEBP"):
            with self.subTest(kind=kind):
                made = json.loads(self.upload(self.path, photo(kind), f"x.{kind.lower()}").content)["id"]
                large = Browser("reader").get(f"/api/pictures/{made}")
                small = Browser("reader").get(f"/api/pictures/{made}?small")
                self.assertIn("immutable", large.headers["Cache-Control"])
                for answer, longest in ((large, 640), (small, 320)):
                    with Image.open(io.BytesIO(answer.content)) as picture:
                        self.assertEqual(max(picture.size), longest)
        self.assertEqual(len(self.tester.json(self.cell_path())["passes"][0]["pictures"]), 3)

    def test_the_same_picture_twice_is_kept_once(self) -> None:
        content = photo()
        self.assertEqual(self.upload(self.path, content).content, self.upload(self.path, content).content)
        self.assertEqual(Picture.objects.count(), 1)

    def test_a_picture_that_was_taken_off_stays_on_record_and_comes_back(self) -> None:
        content = photo()
        made = json.loads(self.upload(self.path, content).content)["id"]
        self.assertEqual(self.tester.send("delete", f"/api/pictures/{made}").status_code, 204)
        self.assertEqual(self.tester.get(f"/api/pictures/{made}").status_code, 404)
        self.assertEqual(self.tester.json(self.cell_path())["passes"][0]["pictures"], [])
        self.assertEqual(self.tester.send("put", f"/api/pictures/{made}/back").status_code, 204)
        self.assertEqual(self.tester.get(f"/api/pictures/{made}").status_code, 200)
        self.tester.send("delete", f"/api/pictures/{made}")
        self.assertEqual(json.loads(self.upload(self.path, content).content)["id"], made)
        self.assertEqual((Picture.objects.count(), Picture.every.count()), (1, 1))

    def test_what_is_no_picture_is_refused(self) -> None:
        bomb = photo("PNG", (1, 1)).replace(b"IHDR\0\0\0\1\0\0\0\1", b"IHDR\0\1\0\0\0\1\0\0")
        for content in (b"", b"<svg onload='x'/>", b"GIF89a" + bytes(50), photo()[:300], bomb):
            with self.subTest(content=content[:12]):
                problem = self.problem(self.upload(self.path, content), 422)
                self.assertIn("Nothing was stored", problem["detail"])
        self.assertEqual(Picture.objects.count(), 0)

    def test_only_the_team_sees_and_only_testers_add(self) -> None:
        made = json.loads(self.upload(self.path, photo()).content)["id"]
        self.assertIn(Client().get(f"/api/pictures/{made}").status_code, (401, 403))
        self.problem(self.upload(self.path, photo(), who=Browser("reader")), 403)
        self.assertEqual(self.tester.send("delete", f"/api/pictures/{made}").status_code, 204)
