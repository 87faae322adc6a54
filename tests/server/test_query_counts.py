"""Every query that promises how often it asks the database keeps its promise, whatever there is."""

import uuid
from collections.abc import Callable
from typing import Any

from django.db import connection
from django.test.utils import CaptureQueriesContext

from nomothet.server.analysis.queries import rated_of, untrusted_metrics
from nomothet.server.analysis.recorder import overheads_of
from nomothet.server.docket.commands import next_numbers
from nomothet.server.docket.live import live
from nomothet.server.docket.models import Entry
from nomothet.server.evidence.cell import cell_detail
from nomothet.server.evidence.figures import gather
from nomothet.server.matrix.progress import docketed
from nomothet.server.overview.reviews import reviews
from nomothet.server.overview.workloads import fitness
from nomothet.server.passes.marks import marks_of
from nomothet.server.passes.models import Pass
from nomothet.server.passes.noise import borrowed_noises
from nomothet.server.passes.stamping import Stamps
from nomothet.server.passes.tallies import refresh_all
from nomothet.server.planning.check import plan
from nomothet.server.reviews.differences import compared
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.shelf.models import Part, Price
from nomothet.server.shelf.queries import parts
from nomothet.server.systems.models import Configuration, Fitting, Observation
from nomothet.server.systems.queries import observed, system_detail, systems
from nomothet.server.systems.states import states
from nomothet.server.workloads.models import Workload
from nomothet.server.workloads.queries import workloads
from tests.server.base import Browser, SceneTest


class Promises(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.fill(0, [60.0, 60.2])
        self.fill(1, [54.0, 54.3])

    @property
    def review(self) -> Review:
        return Review.objects.get(pk=self.scene.review.pk)

    def asks(self) -> dict[str, tuple[int, Callable[[], Any]]]:
        """What its docstring promises, and the call."""
        review, columns = (
            self.review,
            list(Column.objects.filter(review=self.scene.review).select_related("configuration")),
        )
        tests = list(Test.objects.filter(review=review).select_related("workload", "review"))
        held = list(Configuration.objects.all())
        ids = [one.pk for one in Pass.objects.all()]
        wanted: list[Any] = [(test.workload_id, "average_fps", "ratio") for test in tests]
        entry = Entry.objects.order_by("pk").select_related("test__workload", "test__review", "bench", "by_hand",
                                                            "column__configuration__system").first()  # fmt: skip
        assert entry is not None
        return {
            "workloads": (5, workloads),
            "fitness": (3, fitness),
            "reviews": (7, reviews),
            "compared": (6, lambda: compared(review)),
            "plan": (15, lambda: plan(review)),
            "states": (3, lambda: states(held)),
            "systems": (5, systems),
            "system": (9, lambda: system_detail(self.scene.system)),
            "observed": (2, lambda: observed(held)),
            "parts": (3, parts),
            "stamps": (1, lambda: Stamps(columns)),
            "marks": (1, lambda: marks_of(ids)),
            "noise": (2, lambda: borrowed_noises(wanted, review)),
            "docketed": (2, lambda: docketed(review)),
            "numbers": (2, lambda: next_numbers([test.pk for test in tests])),
            "live": (2, lambda: live(entry)),
            "untrusted": (1, lambda: untrusted_metrics(test.workload_id for test in tests)),
            "rated": (2, lambda: rated_of(columns)),
            "overheads": (2, lambda: overheads_of(review)),
            "gather": (4, lambda: gather(review, tests)),
            "cell": (14, lambda: cell_detail(tests[0], columns[0])),
        }

    def counted(self) -> dict[str, int]:
        # What passes amount to is kept, made anew once after they came, and found in order by the next look.
        for _ in range(2):
            refresh_all()
        found = {}
        for name, (_, ask) in self.asks().items():
            with CaptureQueriesContext(connection) as queries:
                ask()
            found[name] = len(queries)
        return found

    def grow(self, first: int) -> None:
        """More of everything: parts and prices, configurations, editions, tests, passes, marks, entries."""
        for at in range(first, first + 4):
            part = Part.objects.create(kind="processor", name=f"chip {at}", attributes=[])
            Price.objects.create(part=part, amount=100 + at, currency="EUR", on="2026-01-01", basis="street")
            held = Configuration.objects.create(
                system=self.scene.system, name=f"Wren {at}", base=self.scene.configurations[0], settings={}
            )
            Fitting.objects.create(configuration=held, place="processor", part=part)
            Observation.objects.create(
                configuration=held, key="power_limit_w", value=30, by=self.scene.people["tester"]
            )
            Column.objects.create(review=self.scene.review, position=5 + at, configuration=held, label=f"c{at}")
            edition = Workload.objects.create(key="reef-walk", name="Reef Walk 2", version=f"3.{at}", kind="scene")
            Test.objects.create(
                review=self.scene.review, position=5 + at, workload=edition, detail="flat", shown=["average_fps"]
            )
            self.scene.new_review(f"more-{at}", f"Question {at}?")
        self.fill(0, [60.1, 60.3, 60.2], seed=7 + first)
        for owner in Pass.objects.all():
            body = {"label": "menu", "start_s": 1.0, "end_s": 2.0}
            Browser("tester").send("post", f"/api/passes/{owner.pk}/marks", body)
        self.scene.owe(column=1, count=3)

    def test_the_same_few_queries_however_much_there_is(self) -> None:
        promised = {name: most for name, (most, _) in self.asks().items()}
        self.grow(0)
        small = self.counted()
        self.grow(4)
        large = self.counted()
        for name, most in promised.items():
            with self.subTest(name=name):
                self.assertLessEqual(large[name], most)
                self.assertEqual(large[name], small[name])


class Storing(SceneTest):
    def queries(self, cells: list[tuple[int, int]], texts: str) -> int:
        given = [
            {"test": self.scene.tests[test].pk, "column": self.scene.columns[column].pk, "metric": metric,
             "text": texts, "method": "meter", "half_width": 0}
            for test, column in cells for metric in (("average_fps",) if test == 0 else ("one_thread",))
        ]  # fmt: skip
        tester = Browser("tester")
        with CaptureQueriesContext(connection) as found:
            answer = tester.send("put", f"{self.review_path}/typed/{uuid.uuid4()}", {"cells": given})
        self.assertEqual(answer.status_code, 201, answer.content)
        return len(found)

    def test_typed_figures_are_stored_in_the_same_few_queries_for_one_cell_and_for_four(self) -> None:
        self.queries([(0, 0)], "60")
        one = self.queries([(0, 0)], "60")
        four = self.queries([(0, 0), (0, 1), (1, 0), (1, 1)], "60 61 62 63 64 65")
        # The test of the suite is a second one, whose stamp is set by itself.
        self.assertLessEqual(four, one + 6)
