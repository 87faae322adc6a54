"""Findings that answer: what was expected, what each held under load, and who ranks where."""

import statistics
import uuid
from typing import Any

from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Review, Test
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser
from tests.server.finding_scene import KindsTest


class Expected(KindsTest):
    def expect(self, word: str, most: float | None = None, **more: Any) -> None:
        one = {"column": self.second.pk, "of": self.first.pk, "word": word, "by_at_most_pct": most, **more}
        review = Browser("editor")
        version = Review.objects.get(pk=self.review.pk).version
        answer = review.send("patch", self.review_path, {"expectations": [one]}, **{"If-Match": f'"v{version}"'})
        self.assertEqual(answer.status_code, 200, answer.content)

    def build(self, second: float) -> None:
        for test in (self.walk, self.row(self.scene.scene, ["average_fps"], scene="open")):
            self.passes(test, self.first, average_fps=self.around(100.0))
            self.passes(test, self.second, average_fps=self.around(second))

    def test_what_is_not_held_comes_first_and_the_finding_says_so(self) -> None:
        self.expect("level")
        self.build(90.0)
        found = Browser("reader").json(f"{self.review_path}/findings")["findings"]
        self.assertEqual({one["kind"] for one in found[:2]}, {"expected", "overall"})
        overall = next(one for one in found if one["kind"] == "overall")
        self.assertEqual(overall["expected"], [{"words": "20 W level with 35 W", "held": "not held"}])
        (expected,) = self.said("expected")
        self.assertIn("Not held over 2 tests: −10.0 %", expected["sentence"])

    def test_what_is_held_and_what_nobody_can_tell(self) -> None:
        self.expect("behind", 15.0)
        self.assertEqual(self.said("expected")[0]["verdict"], "cannot tell")
        self.build(90.0)
        self.assertEqual(self.said("expected")[0]["verdict"], "held")

    def test_in_one_test_alone(self) -> None:
        self.expect("behind", None, test=self.walk.pk)
        self.passes(self.walk, self.first, average_fps=self.around(100.0))
        self.passes(self.walk, self.second, average_fps=self.around(90.0))
        (finding,) = self.said("expected")
        self.assertIn("20 W behind 35 W in Reef Walk 2. Held: −10.0 %", finding["sentence"])

    def test_what_cannot_be_is_refused_by_its_place(self) -> None:
        first, second = self.first.pk, self.second.pk
        for one, words in (
            ({"column": first, "of": first, "word": "ahead"}, "against itself"),
            ({"column": first, "of": 999, "word": "ahead"}, "does not have"),
            ({"column": first, "of": second, "word": "better"}, "Expectation 1 cannot be read"),
            ({"column": first, "of": second, "word": "ahead", "by_at_most_pct": -3}, "above 0"),
            ({"column": first, "of": second, "word": "ahead", "test": 999}, "names a test"),
            ("ahead", "cannot be read"),
        ):
            with self.subTest(words=words):
                version = Review.objects.get(pk=self.review.pk).version
                answer = Browser("editor").send(
                    "patch", self.review_path, {"expectations": [one]}, **{"If-Match": f'"v{version}"'}
                )
                self.assertEqual(answer.status_code, 422, answer.content)
                self.assertIn(words, answer.json()["detail"])
        self.assertEqual(Review.objects.get(pk=self.review.pk).expectations, [])

    def test_a_copy_of_the_review_expects_the_same_of_its_own_columns(self) -> None:
        self.expect("level", test=self.walk.pk)
        answer = Browser("editor").send("post", f"{self.review_path}/copy")
        copy = Review.objects.get(pk=answer.json()["id"])
        (one,) = copy.expectations
        self.assertIn(one["column"], copy.columns.values_list("pk", flat=True))
        self.assertIn(one["test"], copy.tests.values_list("pk", flat=True))


class Loads(KindsTest):
    def test_what_each_held_and_where_heat_takes_its_share(self) -> None:
        lens = Workload.objects.create(
            key="visitor-lens", name="Visitor Lens", version="1", kind="load_search", runner="simulated",
            metrics=[
                {"key": "cameras", "label": "cameras held", "unit": "cameras", "direction": "higher", "scale": "ratio",
                 "role": "load"}
            ],
        )  # fmt: skip
        test = self.row(lens, ["cameras"], start=4, soak_s=600)
        for column, held in ((self.first, 4), (self.second, 6)):
            (owner,) = self.passes(test, column, cameras=[float(held)])
            tried = [{"load": held, "holds": True, "hot": False}, {"load": held + 1, "holds": False, "hot": False}]
            tried += [{"load": held, "holds": True, "hot": False}] * 2
            tried += [{"load": held, "holds": False, "hot": True}, {"load": held - 1, "holds": True, "hot": True}]
            Pass.objects.filter(pk=owner.pk).update(
                attempts=[{"time_to_failure_s": None, "reason": "", "phase": "", "use": {}, **one} for one in tried]
            )
        (finding,) = self.said("load")
        self.assertIn("20 W held 6 cameras, 35 W 4; heat costs 25.0 %", finding["sentence"])
        marks = finding["extents"]["rows"][0]["marks"]
        self.assertEqual([(mark["value"], mark["open"]) for mark in marks], [(5, True), (3, False)])


class Ranks(KindsTest):
    def test_the_list_is_ranked_and_every_sentence_is_short(self) -> None:
        for column, centre in ((self.first, 100.0), (self.second, 80.0)):
            self.passes(self.walk, column, average_fps=self.around(centre))
            self.passes(self.scene.tests[1], column, one_thread=[centre, centre * 1.2, centre * 0.9])
        answer = Browser("reader").json(f"{self.review_path}/findings")
        order = [one["kind"] for one in answer["findings"]]
        self.assertLess(order.index("overall"), order.index("versus"))
        self.assertEqual(order[-1], "open")
        for one in answer["findings"]:
            self.assertLessEqual(len(one["sentence"].split()), 30, one["sentence"])
            self.assertTrue(all(len(line) == len(one["heads"]) for line in one["lines"]), one["key"])
        counted = {one["key"]: one["count"] for one in answer["kinds"]}
        self.assertEqual(sum(counted.values()), len(answer["findings"]))

    def test_the_conditions_of_its_comparisons_stand_with_a_finding(self) -> None:
        for column in (self.first, self.second):
            passes = self.passes(self.walk, column, average_fps=self.around(100.0 + column.pk))
            Pass.objects.filter(pk__in=[one.pk for one in passes]).update(session=uuid.uuid4())
        Test.objects.update(stamp=999)
        (finding,) = self.said("sweep")
        self.assertIn("One session each", " ".join(finding["caveats"]))

    def test_the_mean_of_the_values_is_an_extra_and_labelled(self) -> None:
        other = self.row(self.scene.scene, ["average_fps"], scene="open")
        for test, base in ((self.walk, 100.0), (other, 50.0)):
            self.passes(test, self.first, average_fps=self.around(base))
            self.passes(test, self.second, average_fps=self.around(base * 0.8))
        (finding,) = self.said("overall")
        self.assertIn("no verdict", finding["lines"][-1][0])
        wanted = statistics.fmean([80.0, 40.0])
        self.assertEqual(finding["lines"][-1][1], f"{wanted:.1f} fps")
