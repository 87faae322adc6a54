"""What the trace says about the part that the figures are made of."""

import numpy as np

from tests.server.base import Browser, SceneTest


class Cuts(SceneTest):
    def trace(self) -> dict[str, float]:
        self.scene.owe()
        pass_id = self.bench.deliver(np.full(1000, 10.0))
        return Browser("reader").json(f"/api/passes/{pass_id}/trace")  # type: ignore[no-any-return]

    def test_without_cuts_the_whole_run_counts(self) -> None:
        trace = self.trace()
        self.assertEqual((trace["counts_from_s"], trace["counts_to_s"]), (0.0, trace["duration_s"]))

    def test_warm_up_and_end_cut_bound_what_counts(self) -> None:
        test = self.scene.tests[0]
        test.skip_s, test.end_cut_s = 2.0, 1.5
        test.save()
        trace = self.trace()
        self.assertEqual((trace["counts_from_s"], trace["counts_to_s"]), (2.0, 8.5))
