"""What passes amount to is kept, and is always as counting them would have it."""

import math
import statistics

from nomothet.server.passes.commands import set_aside, take_back
from nomothet.server.passes.models import Figure, Pass, Tally, TestNoise
from nomothet.server.passes.noise import borrowed_noises
from nomothet.server.passes.tallies import tallies
from nomothet.server.reviews.models import Test
from tests.server.base import SceneTest, steady


class Tallies(SceneTest):
    def run_passes(self, *rates: float, column: int = 0, outcome: str = "completed") -> list[str]:
        self.scene.owe(column=column, count=len(rates))
        return [
            self.bench.deliver(steady(rate, seed=at), outcome=outcome, duration_s=50.0 + at)
            for at, rate in enumerate(rates)
        ]

    def tally(self) -> Tally:
        return tallies().get(test=self.scene.tests[0])

    def figures(self, column: int) -> list[float]:
        found = Figure.objects.filter(owner__column=self.scene.columns[column], metric="average_fps")
        return [math.log(value) for value in found.values_list("value", flat=True)]

    def test_each_test_has_one_and_nothing_is_nothing(self) -> None:
        self.assertEqual(tallies().count(), Test.objects.count())
        empty = self.tally()
        self.assertEqual((empty.kept, empty.timed, empty.timed_s, empty.rated, empty.last_at), (0, 0, 0.0, 0, None))
        self.assertEqual(TestNoise.objects.count(), 0)

    def test_kept_passes_are_counted_with_their_lengths_and_rates(self) -> None:
        self.run_passes(60.0, 61.0, 62.0)
        self.run_passes(30.0, outcome="crashed")
        found = self.tally()
        self.assertEqual((found.kept, found.timed, found.timed_s, found.rated), (3, 3, 153.0, 3))
        self.assertAlmostEqual(found.rate_sum_fps / found.rated, 61.0, delta=0.2)
        last = Pass.objects.order_by("started_at").last()
        assert last is not None
        self.assertEqual(found.last_at, last.started_at)

    def test_one_set_aside_is_not_in_it_and_is_again_when_taken_back(self) -> None:
        first, *_ = self.run_passes(60.0, 61.0, 62.0)
        self.assertEqual(self.tally().kept, 3)
        tester = self.scene.people["editor"]
        set_aside(tester, Pass.objects.get(pk=first).pk, "somebody typed")
        self.assertEqual((self.tally().kept, self.tally().timed_s), (2, 103.0))
        take_back(tester, Pass.objects.get(pk=first).pk)
        self.assertEqual(self.tally().kept, 3)

    def test_noise_is_that_within_cells_of_other_reviews(self) -> None:
        self.run_passes(60.0, 61.0, 62.5)
        self.run_passes(40.0, 40.2, column=1)
        scene, other = self.scene.scene, self.scene.new_review("other", "Another question?")
        borrowed = borrowed_noises([(scene.pk, "average_fps", "ratio")], other)[scene.pk, "average_fps"]
        cells = [self.figures(column) for column in (0, 1)]
        squares = sum((len(cell) - 1) * statistics.variance(cell) for cell in cells)
        self.assertEqual(borrowed.df, 3)
        self.assertAlmostEqual(borrowed.sd, math.sqrt(squares / 3), places=12)
        self.assertEqual(borrowed_noises([(scene.pk, "average_fps", "ratio")], self.scene.review), {})

    def test_noise_that_is_no_more_is_forgotten(self) -> None:
        passes = self.run_passes(60.0, 61.0)
        tallies()
        self.assertTrue(TestNoise.objects.filter(metric="average_fps").exists())
        set_aside(self.scene.people["editor"], Pass.objects.get(pk=passes[0]).pk, "somebody typed")
        tallies()
        self.assertFalse(TestNoise.objects.exists())
