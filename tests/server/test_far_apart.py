"""Values that no machine gives, as a slip of a key or a broken sensor makes them: what shows them must not fail."""

import json

import numpy as np

from nomothet.formats.series import pack
from nomothet.server.finite_json import FiniteJSONRenderer
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Review
from tests.server.base import Browser, manifest
from tests.server.finding_scene import KindsTest
from tests.server.test_economy import SECONDS, EconomyTest


class Answers(KindsTest):
    def test_what_is_not_finite_is_null_and_the_rest_as_it_is(self) -> None:
        data = {"a": [1.5, float("inf")], "b": {"c": float("nan"), "d": "x"}}
        self.assertEqual(json.loads(FiniteJSONRenderer().render(data)), {"a": [1.5, None], "b": {"c": None, "d": "x"}})


class FarApartPasses(KindsTest):
    def shown(self) -> dict[str, str]:
        """What a reader is sent of the review; anything that is no JSON number would fail to be read."""
        reader = Browser("reader")
        for path in ("", "/matrix", "/matrix?idle=1", "/completeness", "/findings"):
            answer = reader.get(f"{self.review_path}{path}")
            self.assertEqual(answer.status_code, 200, (path, answer.content[:300]))
            self.assertNotRegex(answer.content.decode(), r"NaN|Infinity")
        return {one["kind"]: one["sentence"] for one in reader.json(f"{self.review_path}/findings")["findings"]}

    def test_passes_that_are_powers_of_ten_apart_are_shown_as_far_apart(self) -> None:
        self.passes(self.walk, self.first, average_fps=[1.0, 9e14])
        self.passes(self.walk, self.second, average_fps=[1.0, 2.0])
        self.assertIn("to over +1 million %", self.shown()["open"])

    def test_the_largest_and_the_smallest_of_numbers(self) -> None:
        for column, values in ((self.first, [1e308, 1.7e308]), (self.second, [5e-324, 1e-320])):
            self.passes(self.walk, column, average_fps=values)
            third = self.row(self.scene.scene, ["average_fps"], scene=column.label)
            self.passes(third, self.first, average_fps=[1e308, 1.0])
            self.passes(third, self.second, average_fps=[1e-320, 1.0])
        Review.objects.update(target_fps=60)
        for one in self.shown().values():
            self.assertNotIn("inf", one.lower().split())
            self.assertLess(len(one), 300)

    def test_sensors_that_read_what_cannot_be(self) -> None:
        for owner in self.passes(self.walk, self.first, average_fps=[60.0, 61.0]):
            self.looked_at(owner, lanes={"power": {"mean": 1e308, "energy_j": 1e308}})
        self.shown()


class FarApartWatts(EconomyTest):
    def test_a_figure_of_no_size_is_none_but_its_pass_and_output_are_kept(self) -> None:
        self.scene.owe()
        pass_id, job = self.bench.take()
        told = {"unit": "points", "direction": "higher", "scale": "ratio"}
        figures = [{**told, "metric": name, "value": value} for name, value in (("score", 1e300), ("hits", 12.0))]
        blobs = {"output": pack({"bytes": np.frombuffer(b"score 1e300", np.uint8)})}
        body = manifest(job["entry"], blobs, figures=figures)
        body["series"][0]["kind"] = "output"
        self.assertEqual(self.bench.send("put", f"/passes/{pass_id}", body).status_code, 200)
        self.bench.chunk(pass_id, "output", 0, blobs["output"])
        self.assertEqual(self.bench.send("post", f"/passes/{pass_id}/finish").status_code, 200)
        owner = Pass.objects.get(pk=pass_id)
        self.assertEqual(list(owner.figures.values_list("metric", "value")), [("hits", 12.0)])
        self.assertEqual(owner.note, "not taken, as no quantity has this size: score 1e+300")
        self.assertEqual(bytes(owner.series.get().blob or b""), blobs["output"])

    def test_a_reading_of_no_size_failed_and_the_others_count(self) -> None:
        t = np.arange(0.0, SECONDS + 1)
        self.scene.owe()
        pass_id, job = self.bench.take()
        watts = np.where(t == 7, 1e300, 30.0)
        blobs = {"frames": pack({"frame_ms": np.full(1200, 16.0)}), "package power": pack({"t_s": t, "value": watts})}
        body = manifest(job["entry"], blobs, duration_s=float(SECONDS))
        body["series"][1]["unit"] = "W"
        self.assertEqual(self.bench.send("put", f"/passes/{pass_id}", body).status_code, 200)
        for name, blob in blobs.items():
            self.bench.chunk(pass_id, name, 0, blob)
        self.assertEqual(self.bench.send("post", f"/passes/{pass_id}/finish").status_code, 200)
        self.assertAlmostEqual(self.cell(0)["mean_w"], 30.0)
        (lane,) = Browser("reader").json(f"/api/passes/{pass_id}/trace")["lanes"]
        self.assertEqual((lane["peak"], lane["values"].count(None)), (30.0, 1))

    def test_a_meter_that_reads_no_watts_or_far_too_many_leaves_the_lens_readable(self) -> None:
        for watts in (0.0, 1e300, 1e-300):
            self.bring(0, 60.0, {"package power": watts})
            self.bring(1, 50.0, {"package power": 20.0})
        for path in ("/matrix", "/matrix?idle=1", "/findings"):
            answer = Browser("reader").get(f"{self.review_path}{path}")
            self.assertEqual(answer.status_code, 200, answer.content[:300])
            self.assertNotRegex(answer.content.decode(), r"NaN|Infinity")
