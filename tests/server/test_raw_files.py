"""Which raw captures go out with a record: chosen beforehand, and nothing else is served by its number."""

import hashlib
import io
import json
import zipfile
from typing import Any

import numpy as np
import zstandard

from nomothet.formats.output import OUTPUT
from nomothet.formats.series import pack
from nomothet.server.passes.models import Pass, Series
from tests.server.base import Browser, SceneTest, steady

ORIGINAL = b"folder C:\\\\people\\\\ines\nframe_ms\n16.7\n"


class RawFiles(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.scene.owe()
        self.owner = Pass.objects.get(pk=self.bench.deliver(steady(60)))
        for name in ("clock", "temperature"):
            blob = pack({"t_s": np.arange(60.0), "value": np.arange(60.0)})
            self.add(name, "sensor", blob)
        self.add("original", "file", zstandard.compress(ORIGINAL))
        self.add("output", OUTPUT, zstandard.compress(b"secret of the program"))
        self.series = {one.name: one.pk for one in Series.objects.all()}

    def add(self, name: str, kind: str, blob: bytes) -> None:
        told = {"size": len(blob), "received": len(blob), "sha256": hashlib.sha256(blob).hexdigest()}
        Series.objects.create(owner=self.owner, name=name, kind=kind, blob=blob, source="drop.csv", **told)

    def publish(self, **chosen: Any) -> str:
        answer = Browser("editor").send("post", f"{self.review_path}/records", chosen)
        self.assertEqual(answer.status_code, 201, answer.content)
        return str(answer.json()["slug"])

    def served(self, slug: str) -> set[str]:
        """The captures that anybody is given by their number."""
        given = set()
        for name, pk in self.series.items():
            answer = Browser().get(f"/api/records/{slug}/captures/{pk}.csv")
            self.assertIn(answer.status_code, (200, 404))
            given |= {name} if answer.status_code == 200 else set()
        return given

    def package(self, slug: str) -> zipfile.ZipFile:
        answer = Browser().get(f"/records/{slug}/package.zip")
        return zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))  # type: ignore[attr-defined]

    def test_as_usual_frames_and_sensors_go_out_and_files_and_outputs_stay(self) -> None:
        slug = self.publish()
        self.assertEqual(self.served(slug), {"frames", "clock", "temperature"})

    def test_a_sensor_that_is_left_out_is_in_no_page_trace_or_package(self) -> None:
        slug = self.publish(without_sensors=["clock"])
        self.assertEqual(self.served(slug), {"frames", "temperature"})
        trace = Browser().json(f"/api/records/{slug}/traces/{self.owner.pk}")
        self.assertEqual([lane["name"] for lane in trace["lanes"]], ["temperature"])
        self.assertGreater(trace["frames"], 0)
        names = " ".join(self.package(slug).namelist())
        self.assertIn("temperature", names)
        self.assertFalse("clock" in names or "original" in names or "output" in names, names)

    def test_frame_times_are_not_left_out(self) -> None:
        self.assertIn("frames", self.served(self.publish(without_sensors=["frames"])))

    def test_original_files_go_out_when_they_are_wanted(self) -> None:
        slug = self.publish(with_files=True)
        self.assertEqual(self.served(slug), {"frames", "clock", "temperature", "original"})
        answer = Browser().get(f"/api/records/{slug}/captures/{self.series['original']}.csv")
        self.assertEqual(answer.content, ORIGINAL)
        held = self.package(slug)
        (name,) = [name for name in held.namelist() if name.startswith("originals/")]
        self.assertEqual(held.read(name), ORIGINAL)

    def test_what_there_is_to_choose_shows_what_it_holds_and_no_output(self) -> None:
        told = {one["name"]: one for one in Browser("editor").json(f"{self.review_path}/raw-files")}
        self.assertEqual(set(told), {"frames", "clock", "temperature", "original"})
        self.assertEqual(told["original"]["beginning"], ORIGINAL.decode())
        self.assertEqual((told["original"]["goes"], told["original"]["sources"]), (False, ["drop.csv"]))
        self.assertEqual((told["clock"]["goes"], told["clock"]["fixed"], told["frames"]["fixed"]), (True, False, True))
        self.assertNotIn("secret of the program", json.dumps(told))
