"""What was computed of a test is kept until something that it depends on changes, and never longer."""

import json
import math
from dataclasses import replace
from typing import Any
from unittest.mock import patch

import msgspec
from django.core.cache import cache

from nomothet.server.analysis.models import Untrusted
from nomothet.server.evidence.figures import gather
from nomothet.server.matrix import results
from nomothet.server.matrix.lens import Lens, LensResults, read_back
from nomothet.server.matrix.matrix import matrix
from nomothet.server.matrix.tasks import is_waiting, prepare_all
from nomothet.server.reviews.models import Caveat, Review, Test
from nomothet.server.shapes import plain
from tests.server.base import Browser, SceneTest


class Kept(SceneTest):
    passes: list[str]

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.passes = cls.scene.fill(0, [60.0, 60.1]) + cls.scene.fill(1, [50.0, 50.1])

    def setUp(self) -> None:
        super().setUp()
        self.matrix()

    def matrix(self, baseline: int | None = None) -> dict[str, Any]:
        return plain(matrix(Review.objects.get(pk=self.scene.review.pk), baseline))

    def computed(self) -> list[int]:
        """The tests that the next look computes anew."""
        with patch.object(results, "gather", wraps=gather) as watched:
            self.matrix()
        return [test.pk for call in watched.call_args_list for test in call.args[1]]

    def centre(self, column: int = 0) -> float:
        row = self.matrix()["rows"][0]
        return float(row["cells"][str(self.scene.columns[column].pk)]["centre"])

    def test_a_second_look_computes_nothing(self) -> None:
        self.assertEqual(self.computed(), [])

    def test_what_is_read_back_is_what_was_computed(self) -> None:
        kept = self.matrix()
        cache.clear()
        self.assertEqual(self.matrix(), kept)

    def test_an_answer_put_together_of_what_is_kept_is_the_whole_matrix(self) -> None:
        Test.objects.create(review=self.scene.review, position=2, workload=self.scene.scene, shown=["average_fps"])
        path = f"/api/reviews/{self.scene.review.pk}/matrix"
        for state in ("computed now", "kept"):
            with self.subTest(state):
                answer = Browser("reader").get(path).json()
                self.assertEqual(answer, json.loads(msgspec.json.encode(self.matrix())))
                self.assertTrue(answer["rows"])

    def test_a_number_that_is_not_finite_is_kept_as_it_is_and_told_as_null(self) -> None:
        endless: Lens[list[float]] = Lens("endless", list[float], lambda *_: [1.5, math.inf])
        built = LensResults(1, {endless.key: [1.5, math.inf]})
        for results_ in (built, read_back(1, built.kept())):
            self.assertEqual(results_.of(endless), [1.5, math.inf])
            self.assertEqual(bytes(results_.json(endless)), b"[1.5,null]")

    def test_a_lens_is_built_after_those_that_it_needs(self) -> None:
        self.assertEqual(len({lens.key for lens in results.LENSES}), len(results.LENSES))
        for at, lens in enumerate(results.LENSES):
            for needed in lens.needs:
                with self.subTest(lens=lens.key, needs=needed.key):
                    self.assertIn(needed, results.LENSES[:at])

    def test_what_a_lens_adds_to_its_dependencies_computes_it_anew(self) -> None:
        for lens in results.LENSES:

            def depending(on: str, lens: Any = lens) -> Any:
                other = replace(lens, depends=lambda *_: on)
                return patch.object(results, "LENSES", tuple(other if one is lens else one for one in results.LENSES))

            with self.subTest(lens=lens.key):
                with depending("this"):
                    self.matrix()
                    self.assertEqual(self.computed(), [])
                with depending("that"):
                    self.assertEqual(len(self.computed()), len(self.scene.tests))

    def test_a_change_of_one_pass_computes_its_test_only(self) -> None:
        other = Test.objects.create(
            review=self.scene.review, position=2, workload=self.scene.scene, detail="reef", shown=["average_fps"]
        )
        self.matrix()
        Browser("tester").send("put", f"/api/passes/{self.passes[0]}/set-aside", {"reason": "wrong scene"})
        self.assertEqual(self.computed(), [self.scene.tests[0].pk])
        self.assertNotEqual(other.pk, self.scene.tests[0].pk)

    def test_figures_follow_every_act(self) -> None:
        tester = Browser("tester")
        tester.send("put", f"/api/passes/{self.passes[0]}/set-aside", {"reason": "wrong scene"})
        self.assertAlmostEqual(self.centre(), 60.1, delta=0.05)
        tester.send("delete", f"/api/passes/{self.passes[0]}/set-aside")
        self.assertAlmostEqual(self.centre(), 60.05, delta=0.05)
        self.fill(0, [66.0])
        self.assertAlmostEqual(self.centre(), 61.97, delta=0.05)

    def test_another_baseline_another_margin_and_a_caveat_are_other_questions(self) -> None:
        against = self.matrix(self.scene.columns[1].pk)["rows"][0]["cells"][str(self.scene.columns[0].pk)]
        self.assertGreater(against["comparison"]["change"], 15)
        cell = str(self.scene.columns[1].pk)
        self.assertEqual(self.matrix()["rows"][0]["cells"][cell]["comparison"]["verdict"], "behind")
        path = f"/api/reviews/{self.scene.review.pk}"
        version = Browser("editor").json(path)["version"]
        Browser("editor").send("patch", path, {"margin": 0.5}, **{"If-Match": f'"v{version}"'})
        self.assertEqual(self.matrix()["rows"][0]["cells"][cell]["comparison"]["verdict"], "level")
        self.assertEqual(Caveat.objects.count(), 0)

    def test_trust_is_looked_at_every_time(self) -> None:
        Untrusted.objects.create(
            workload=self.scene.scene, metric="average_fps", reason="menu", by=self.scene.people["editor"]
        )
        self.assertEqual(self.matrix()["rows"][0]["untrusted"], "menu")

    def test_what_leans_on_other_reviews_is_not_kept(self) -> None:
        self.scene.tests = list(self.scene.review.tests.all())
        lone = self.scene.new_review("lone", "One pass each?")
        self.scene.review, self.scene.tests, self.scene.columns = lone, list(lone.tests.all()), list(lone.columns.all())
        self.fill(0, [60.0])
        self.fill(1, [50.0])
        self.matrix()
        self.assertEqual(self.computed(), [self.scene.tests[0].pk])

    def test_the_worker_prepares_what_is_not_kept(self) -> None:
        Browser("tester").send("put", f"/api/passes/{self.passes[0]}/set-aside", {"reason": "wrong scene"})
        prepare_all.func()
        self.assertEqual(self.computed(), [])
        self.assertFalse(is_waiting(self.scene.review.pk))
        self.scene.owe()
        self.assertTrue(is_waiting(self.scene.review.pk))
