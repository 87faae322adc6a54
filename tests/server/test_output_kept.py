"""What a program has written: kept with its pass, shown as plain text, and read again by mended rules."""

import json
from typing import Any

from nomothet.formats.output import columns_of
from nomothet.formats.series import pack
from nomothet.server.matrix.export import passes_in_order
from nomothet.server.passes.models import Figure, Pass, Remark, Series
from nomothet.server.records.content import _passes
from nomothet.server.records.raw_files import RawFiles
from tests.server.base import Browser, SceneTest, manifest, steady

TEXT = b"Loom 4 <script>\nscore: 1234 points\n"


class OutputTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.tester = Browser("tester")
        workload = self.scene.scene
        workload.metrics = [
            {"key": "score", "label": "score", "unit": "points", "direction": "higher", "scale": "ratio"}
        ]
        workload.rules = [{"kind": "text", "expression": r"points (?P<score>[0-9]+)"}]
        workload.save()
        self.scene.owe()
        pass_id, job = self.bench.take()
        frames, output = pack({"frame_ms": steady(60, 1200)}), pack(columns_of(TEXT))
        body = manifest(job["entry"], {"frames": frames, "output": output})
        body["series"][1]["kind"] = "output"
        self.assertEqual(self.bench.send("put", f"/passes/{pass_id}", body).status_code, 200)
        for name, blob in (("frames", frames), ("output", output)):
            self.assertEqual(self.bench.chunk(pass_id, name, 0, blob).status_code, 200)
        self.assertEqual(self.bench.send("post", f"/passes/{pass_id}/finish").status_code, 200)
        self.owner = Pass.objects.get(pk=pass_id)

    def mend(self) -> None:
        workload = self.owner.test.workload
        workload.rules = [{"kind": "text", "expression": r"score: (?P<score>[0-9]+)"}]
        workload.save()

    def again(self) -> Any:
        return self.tester.send("post", f"/api/passes/{self.owner.pk}/read-again")


class Kept(OutputTest):
    def test_it_is_shown_as_plain_text_and_is_no_lane(self) -> None:
        series = Series.objects.get(owner=self.owner, kind="output")
        answer = self.tester.get(f"/api/captures/{series.pk}.csv")
        self.assertEqual((answer.content, answer["Content-Type"]), (TEXT, "text/plain; charset=utf-8"))
        self.assertEqual(answer["X-Content-Type-Options"], "nosniff")
        lanes = self.tester.json(f"/api/passes/{self.owner.pk}/trace")["lanes"]
        self.assertNotIn("output", json.dumps(lanes))

    def test_it_stays_out_of_the_public_record(self) -> None:
        names = [
            one.name
            for owner in _passes(
                self.owner.test.review, list(passes_in_order(self.owner.test.review)), RawFiles(with_files=True)
            )
            for one in owner.captures
        ]
        self.assertEqual(names, ["frames"])


class ReadAgain(OutputTest):
    def test_a_mended_rule_finds_the_figure_and_the_change_is_noted(self) -> None:
        self.assertFalse(Figure.objects.filter(owner=self.owner, metric="score").exists())
        self.mend()
        answer = self.again()
        self.assertEqual(answer.json()["changed"], {"score": [None, 1234.0]})
        self.assertEqual(Figure.objects.get(owner=self.owner, metric="score").value, 1234.0)
        self.assertEqual(Remark.objects.get(owner=self.owner).reason, "score none → 1234")
        # Once more changes nothing and notes nothing.
        self.assertEqual(self.again().json()["changed"], {})
        self.assertEqual(Remark.objects.count(), 1)

    def test_what_is_not_found_leaves_the_figures_and_says_why(self) -> None:
        self.assertIn("found nothing", self.problem(self.again(), 422)["detail"])

    def test_readers_are_refused(self) -> None:
        self.mend()
        self.problem(Browser("reader").send("post", f"/api/passes/{self.owner.pk}/read-again"), 403)
        self.assertFalse(Figure.objects.filter(owner=self.owner, metric="score").exists())

    def test_a_pass_without_output_says_so(self) -> None:
        Series.objects.filter(kind="output").delete()
        self.assertIn("No output was kept", self.problem(self.again(), 422)["detail"])
