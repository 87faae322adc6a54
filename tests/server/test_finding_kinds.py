"""Each kind of finding where it fits, what it says there, and where it does not fit."""

import math
import statistics
import unittest
import uuid
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any

from nomothet.server.analysis.models import Analysis, Pair
from nomothet.server.findings.kept import KINDS
from nomothet.server.passes.models import Figure, Pass
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.shelf.models import Part, Price
from nomothet.server.systems.models import Configuration, Fitting
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest

BEGAN = datetime(2026, 5, 4, 10, tzinfo=UTC)
RATES = {"unit": "fps", "direction": "higher", "scale": "ratio"}
TIMES = {"unit": "s", "direction": "lower", "scale": "ratio"}


class KindsTest(SceneTest):
    """A review whose columns and figures each test writes as it needs them."""

    def setUp(self) -> None:
        super().setUp()
        Review.objects.update(target_fps=None)
        self.review = self.scene.review
        Test.objects.filter(pk=self.scene.tests[0].pk).update(shown=["average_fps"])
        self.first, self.second = self.scene.columns
        self.walk = self.scene.tests[0]

    def column(self, label: str, step: int | None = None, **settings: Any) -> Column:
        made = Configuration.objects.create(
            system=self.scene.system, name=label, settings={"power_limit_w": 35, "fan_profile": 2, **settings}
        )
        at = self.review.columns.count()
        return Column.objects.create(review=self.review, position=at, configuration=made, label=label, step=step)

    def row(self, workload: Workload, shown: list[str], **settings: Any) -> Test:
        at = self.review.tests.count()
        detail = ", ".join(f"{key} {value}" for key, value in settings.items())
        return Test.objects.create(
            review=self.review, position=at, workload=workload, shown=shown, settings=settings, detail=detail
        )

    def vary(self, *aspects: str) -> None:
        factors = [{"key": one, "name": one.replace("_", " "), "aspects": [one], "levels": []} for one in aspects]
        Review.objects.filter(pk=self.review.pk).update(factors=factors, version=50 + len(factors))

    def passes(self, test: Test, column: Column, **metrics: list[float]) -> list[Pass]:
        """Kept passes with figures; `summary` of a pass is set by those that need one."""
        made: list[Pass] = []
        begun = Pass.objects.filter(test=test, column=column).count()
        for at in range(len(next(iter(metrics.values())))):
            owner = Pass.objects.create(
                test=test,
                column=column,
                number=begun + at + 1,
                origin="bench",
                outcome="completed",
                started_at=BEGAN + timedelta(minutes=2 * Pass.objects.count()),
                duration_s=60,
                whole_at=BEGAN,
                method_version=4,
            )
            for key, values in metrics.items():
                kind = TIMES if key.endswith("_s") else RATES
                Figure.objects.create(
                    owner=owner, metric=key, value=values[at], obtained="captured", method_version=4, **kind
                )
            made.append(owner)
        Test.objects.filter(pk=test.pk).update(stamp=Pass.objects.count())
        return made

    def looked_at(self, owner: Pass, **summary: Any) -> None:
        Analysis.objects.update_or_create(owner=owner, defaults={"method_version": 4, "summary": summary})

    def said(self, kind: str) -> list[dict[str, Any]]:
        answer = Browser("reader").get(f"{self.review_path}/findings")
        self.assertEqual(answer.status_code, 200, answer.content[:500])
        return [one for one in answer.json()["findings"] if one["kind"] == kind]

    def around(self, centre: float, n: int = 3) -> list[float]:
        return [centre * (1 + 0.001 * (at - (n - 1) / 2)) for at in range(n)]


class Told(unittest.TestCase):
    def test_each_kind_is_told_of_in_the_help_with_its_section_of_the_method(self) -> None:
        page = (Path(__file__).resolve().parents[2] / "docs" / "findings.md").read_text(encoding="utf-8")
        for kind in KINDS:
            with self.subTest(kind=kind.key):
                self.assertRegex(
                    page, rf"(?m)^\| {kind.words} \| .+ \| ({kind.section}|{kind.section}, .+|.+, {kind.section}) \|$"
                )


class Chains(KindsTest):
    def build(self, marked: bool = True) -> list[Column]:
        Configuration.objects.filter(pk=self.second.configuration_id).update(
            settings={"power_limit_w": 35, "fan_profile": 3}
        )
        third = self.column("and filter", 2 if marked else None, fan_profile=3, dust_filter="in")
        if marked:
            Column.objects.filter(pk=self.first.pk).update(step=0)
            Column.objects.filter(pk=self.second.pk).update(step=1)
        self.vary("fan_profile", "dust_filter")
        for column, centre in ((self.first, 100.0), (self.second, 90.0), (third, 81.0)):
            self.passes(self.walk, column, average_fps=self.around(centre))
        return [self.first, self.second, third]

    def test_marked_steps_make_a_chain_whose_product_is_exact(self) -> None:
        self.build()
        (finding,) = self.said("chain")
        step, other, whole = (1 + band["better"] / 100 for band in finding["bands"])
        self.assertAlmostEqual(step * other, whole, places=9)
        self.assertAlmostEqual(whole, 0.81, places=6)
        self.assertIn("From 35 W to and filter, in Reef Walk 2, average: −19.0 %, behind.", finding["sentence"])

    def test_a_run_of_one_change_columns_is_found_without_marks(self) -> None:
        columns = self.build(marked=False)
        (finding,) = self.said("chain")
        self.assertEqual(finding["columns"], [one.pk for one in columns])

    def test_a_step_that_was_never_measured_alone_is_named_until_it_is(self) -> None:
        self.build()
        (finding,) = self.said("chain")
        self.assertIn("and filter was never measured alone", finding["acts"][0]["words"])
        self.column("filter alone", dust_filter="in")
        Review.objects.filter(pk=self.review.pk).update(version=99)
        self.assertEqual(self.said("chain")[0]["acts"], [])

    def test_levels_of_one_factor_are_a_sweep_and_no_chain(self) -> None:
        third = self.column("28 W", power_limit_w=28)
        for column in (self.first, self.second, third):
            self.passes(self.walk, column, average_fps=self.around(100.0))
        self.assertEqual(self.said("chain"), [])
        self.assertEqual(len(self.said("sweep")), 1)


class Scaling(KindsTest):
    def build(self, threads: tuple[int, ...] = (1, 2, 4), key: str = "threads") -> None:
        Column.objects.filter(review=self.review).delete()
        columns = [self.column(f"{n} {key}", **{key: n}) for n in threads]
        Column.objects.filter(pk=columns[0].pk).update(is_baseline=True)
        self.vary(key)
        for n, column in zip(threads, columns, strict=True):
            for owner in self.passes(self.walk, column, average_fps=self.around(10 / (0.1 + 0.9 / n))):
                self.looked_at(owner, clocks=[4000.0, 4000.0 - 100 * n])

    def test_the_parallel_share_and_the_clock_at_each_size_are_told(self) -> None:
        self.build()
        (finding,) = self.said("scaling")
        self.assertIn("Amdahl's law: 90.0 % in parallel", finding["left_out"][0])
        self.assertIn(
            "4 threads do 3.08 × the work of one, 76.9 % of the ideal, at 92.3 % of its clock", finding["sentence"]
        )
        self.assertEqual([line[-1] for line in finding["lines"]], ["3900 MHz", "3800 MHz", "3600 MHz"])
        measured = next(one for one in finding["curves"]["curves"] if one["label"] == "measured")
        self.assertEqual([point["x"] for point in measured["points"]], [1, 2, 4])

    def test_without_one_there_is_nothing_to_scale_from(self) -> None:
        self.build((2, 4, 8))
        self.assertEqual(self.said("scaling"), [])

    def test_two_sizes_are_a_comparison(self) -> None:
        self.build((1, 4))
        self.assertEqual(self.said("scaling"), [])

    def test_what_is_not_counted_does_not_scale(self) -> None:
        self.build(key="power_limit_w")
        self.assertEqual(self.said("scaling"), [])


class Crossovers(KindsTest):
    def setUp(self) -> None:
        super().setUp()
        metrics = [
            {"key": "render_s", "label": "time", "direction": "lower", "unit": "s", "scale": "ratio"},
            {"key": "first_s", "label": "first picture", "direction": "lower", "unit": "s", "scale": "ratio"},
        ]
        self.kiln = Workload.objects.create(
            key="kiln", name="Kiln", version="3", kind="task", runner="simulated", metrics=metrics,
            settings=[{"key": "size", "label": "size", "unit": "M", "values": [64, 256]}],
        )  # fmt: skip

    def test_the_size_at_which_another_is_ahead(self) -> None:
        for size, first, second in ((64, 90.0, 100.0), (256, 400.0, 360.0)):
            test = self.row(self.kiln, ["render_s"], size=size)
            self.passes(test, self.first, render_s=self.around(first))
            self.passes(test, self.second, render_s=self.around(second))
        (finding,) = self.said("crossover")
        # Both differ by a factor of 10/9, so the crossing lies in the middle of the logs.
        self.assertAlmostEqual(finding["curves"]["rules"][0]["at"], 128.0, places=6)
        self.assertIn("above size 128 M", finding["sentence"])
        self.assertIn("20 W is ahead, under it 35 W", finding["sentence"])
        low, high = (finding["curves"]["rules"][0][end] for end in ("low", "high"))
        self.assertLess(low, 128)
        self.assertGreater(high, 128)

    def test_one_that_is_ahead_everywhere_crosses_nothing(self) -> None:
        for size in (64, 256):
            test = self.row(self.kiln, ["render_s"], size=size)
            self.passes(test, self.first, render_s=self.around(90.0))
            self.passes(test, self.second, render_s=self.around(100.0))
        self.assertEqual(self.said("crossover"), [])

    def test_tests_that_differ_in_two_settings_are_no_sizes(self) -> None:
        for size, mode, first, second in ((64, "a", 90.0, 100.0), (256, "b", 400.0, 360.0)):
            test = self.row(self.kiln, ["render_s"], size=size, mode=mode)
            self.passes(test, self.first, render_s=self.around(first))
            self.passes(test, self.second, render_s=self.around(second))
        self.assertEqual(self.said("crossover"), [])

    def test_first_picture_and_finished_one_put_others_ahead(self) -> None:
        test = self.row(self.kiln, ["render_s", "first_s"], size=64)
        self.passes(test, self.first, render_s=self.around(100.0), first_s=self.around(5.0))
        self.passes(test, self.second, render_s=self.around(50.0), first_s=self.around(20.0))
        (finding,) = self.said("crossover")
        self.assertEqual(
            finding["sentence"],
            "In Kiln, 35 W is sooner with the first picture (−75.0 %), 20 W with the time (−50.0 %).",
        )


class BurstAndSustained(KindsTest):
    def trend(self, owner: Pass, drop: float, cause: str | None) -> None:
        first = 44 if cause else None
        self.looked_at(
            owner,
            trend={
                "burst": 100.0, "sustained": 100.0 - drop, "drop_pct": drop, "first_drop_s": first, "cause": cause,
                "evidence": None, "peak_c": 95.0, "peak_at_s": 40.0, "by": "frame rate",
            },
            clocks=[4600.0, 4000.0],
        )  # fmt: skip

    def test_who_drops_when_and_why_and_who_holds(self) -> None:
        for owner in self.passes(self.walk, self.first, average_fps=[90.0, 91.0]):
            self.trend(owner, 9.0, "temperature")
        for owner in self.passes(self.walk, self.second, average_fps=[80.0, 81.0]):
            self.trend(owner, 0.2, None)
        (finding,) = self.said("burst")
        self.assertEqual(
            finding["sentence"], "In Reef Walk 2, 35 W drops 9.00 % after 44 s, by temperature; 20 W holds."
        )
        self.assertEqual([row["value"] for row in finding["extents"]["rows"]], [91.0, 99.8])
        self.assertEqual(finding["sure"], "decided")

    def test_a_drop_by_a_known_cause_is_told_where_a_lighter_scene_hides_it(self) -> None:
        first = self.passes(self.walk, self.first, average_fps=[90.0, 91.0])
        for owner in first:
            self.trend(owner, -1.5, "temperature")
        for owner in self.passes(self.walk, self.second, average_fps=[80.0, 81.0]):
            self.trend(owner, -7.0, None)
        (finding,) = self.said("burst")
        self.assertEqual(
            finding["sentence"],
            "In Reef Walk 2, 35 W drops after 44 s, by temperature, without a lower rate in the end; 20 W holds.",
        )
        for owner in first:
            self.trend(owner, -1.5, "unknown")
        Test.objects.filter(pk=self.walk.pk).update(stamp=99)
        self.assertEqual(self.said("burst"), [])

    def test_where_everything_holds_only_a_soak_says_so(self) -> None:
        for owner in self.passes(self.walk, self.first, average_fps=[90.0, 91.0]):
            self.trend(owner, 0.0, None)
        self.assertEqual(self.said("burst"), [])
        Workload.objects.filter(pk=self.walk.workload_id).update(kind="soak", edit=7)
        self.assertIn("every configuration holds", self.said("burst")[0]["sentence"])


class Frontiers(KindsTest):
    def priced(self, column: Column, amount: float, basis: str = "street", part: Part | None = None) -> Part:
        made = part or Part.objects.create(kind="machine", name=f"machine of {column.label}")
        if part is None:
            Fitting.objects.create(configuration=column.configuration, place="machine", part=made)
        Price.objects.create(
            part=made, amount=Decimal(str(amount)), currency="EUR", on="2026-04-20", basis=basis, euro_rate=1
        )
        return made

    def build(self) -> list[Column]:
        third = self.column("28 W", power_limit_w=28)
        for column, centre in ((self.first, 50.0), (self.second, 60.0), (third, 60.0)):
            self.passes(self.walk, column, average_fps=self.around(centre))
        return [self.first, self.second, third]

    def test_what_is_dearer_and_behind_is_beaten_and_the_rest_is_joined(self) -> None:
        for column, price in zip(self.build(), (100, 90, 200), strict=True):
            self.priced(column, price)
        (finding,) = self.said("frontier")
        joined, beaten = finding["curves"]["curves"]
        self.assertEqual([point["x"] for point in joined["points"]], [90, 200])
        self.assertEqual([point["x"] for point in beaten["points"]], [100])
        self.assertIn("20 W does the most for its price over 1 test; 35 W is beaten by 20 W", finding["sentence"])

    def test_a_price_of_another_basis_is_listed_apart(self) -> None:
        columns = self.build()
        for column, basis in zip(columns, ("street", "street", "paid"), strict=True):
            self.priced(column, 100 if column is columns[0] else 90, basis)
        (finding,) = self.said("frontier")
        self.assertTrue(any("28 W: no street price of machine of 28 W" in words for words in finding["left_out"]))
        self.assertNotIn(columns[2].pk, finding["columns"])

    def test_over_two_tests_the_mean_ratio_decides(self) -> None:
        columns = self.build()
        other = self.row(self.scene.scene, ["average_fps"], scene="open")
        for column, centre in zip(columns, (30.0, 33.0, 30.0), strict=True):
            self.passes(other, column, average_fps=self.around(centre))
        for column, price in zip(columns, (100, 90, 200), strict=True):
            self.priced(column, price)
        (finding,) = self.said("frontier")
        told = {point["column"]: point["y"] for one in finding["curves"]["curves"] for point in one["points"]}
        self.assertAlmostEqual(told[columns[1].pk], 100 * math.sqrt(1.2 * 1.1), places=3)
        self.assertIn("over 2 tests", finding["sentence"])

    def test_one_price_for_all_is_no_frontier(self) -> None:
        for column in self.build():
            self.priced(column, 100)
        self.assertEqual(self.said("frontier"), [])

    def test_parts_are_added_to_the_machine_and_another_currency_is_turned(self) -> None:
        columns = self.build()
        for column, price in zip(columns, (100, 90, 200), strict=True):
            self.priced(column, price)
        drive = Part.objects.create(kind="storage", name="Drive")
        Fitting.objects.create(configuration=columns[1].configuration, place="storage", part=drive)
        Price.objects.create(part=drive, amount=10, currency="CHF", on="2026-01-02", basis="street", euro_rate="1.05")
        prices = Browser("reader").json(f"{self.review_path}/matrix")["prices"]
        own = prices[str(columns[1].pk)]
        self.assertEqual((own["total"], own["on"], own["missing"]), (100.5, "2026-01-02", []))


class Headroom(KindsTest):
    def use(self, owner: Pass, peak: float, capacity: float, collapse: bool = False) -> None:
        quantity = "graphics memory used"
        found = {"peak": peak, "p95": peak * 0.97, "added": None, "cut_off": peak >= 0.97 * capacity}
        more = {}
        if collapse:
            more["collapse"] = {
                "quantity": quantity, "at_s": 30, "used": peak, "capacity": capacity, "cost_pct": 40.0, "unit": "GB",
            }  # fmt: skip
        self.looked_at(owner, uses={quantity: {**found, "capacity": capacity}}, **more)

    def test_what_is_needed_what_there_is_and_where_it_ran_out(self) -> None:
        (owner,) = self.passes(self.walk, self.first, average_fps=[50.0])
        self.use(owner, 5.0, 8.0)
        (owner,) = self.passes(self.walk, self.second, average_fps=[20.0])
        self.use(owner, 1.99, 2.0, collapse=True)
        (finding,) = self.said("headroom")
        self.assertIn("Reef Walk 2 needs 6 GB of graphics memory with 20 % to spare", finding["sentence"])
        self.assertIn("it ran out on 20 W", finding["sentence"])
        self.assertEqual(finding["extents"]["rows"][0]["marks"][0]["value"], 8.0)
        self.assertAlmostEqual(finding["extents"]["rules"][0]["at"], 6.0)
        self.assertTrue(any("ran out at 30 s, 40 % slower" in line[-1] for line in finding["lines"]))

    def test_no_record_is_no_finding(self) -> None:
        self.passes(self.walk, self.first, average_fps=[50.0])
        self.assertEqual(self.said("headroom"), [])


class LowsAndPacing(KindsTest):
    def setUp(self) -> None:
        super().setUp()
        Test.objects.filter(pk=self.walk.pk).update(shown=["average_fps", "low_1pct"])

    def build(self, low: float) -> None:
        for column, centre, own in ((self.first, 100.0, 60.0), (self.second, 100.5, low)):
            self.passes(
                self.walk, column, average_fps=self.around(centre), low_1pct_slowest_mean=self.around(own),
                hitch_rate_per_min=[1.0, 2.0, 3.0],
            )  # fmt: skip

    def test_average_level_and_low_behind_disagree(self) -> None:
        self.build(40.0)
        (finding,) = self.said("lows")
        self.assertIn("average level (+0.5 %), 1 % low behind (−33.3 %): they disagree.", finding["sentence"])
        self.assertEqual(finding["lines"][0][3:5], ["0.600", "2.00"])

    def test_where_they_agree_the_hitches_are_told(self) -> None:
        self.build(60.2)
        (finding,) = self.said("lows")
        self.assertIn("nowhere disagree for certain; there are 2.00 hitches per minute", finding["sentence"])


class Pairs(KindsTest):
    def test_two_resolutions_are_told_with_their_pixels(self) -> None:
        tests = [self.row(self.scene.scene, ["average_fps"], resolution=one) for one in ("1080p", "4K")]
        for test, centre in zip(tests, (100.0, 40.0), strict=True):
            self.passes(test, self.first, average_fps=self.around(centre))
        (finding,) = self.said("pairs")
        self.assertIn("−60.0 %", finding["sentence"])
        self.assertIn("with 4 × the pixels", finding["sentence"])

    def test_other_settings_are_pairs_only_where_somebody_says_so(self) -> None:
        tests = [self.row(self.scene.scene, ["average_fps"], crowd=one) for one in ("few", "many")]
        for test, centre in zip(tests, (100.0, 90.0), strict=True):
            self.passes(test, self.first, average_fps=self.around(centre))
        self.assertEqual(self.said("pairs"), [])
        Pair.objects.create(
            review=self.review, kind="setting", test_a=tests[0], metric_a="average_fps", test_b=tests[1],
            metric_b="average_fps",
        )  # fmt: skip
        self.assertEqual(len(self.said("pairs")), 1)

    def test_two_instruments_that_rank_otherwise_say_so(self) -> None:
        other = self.row(self.scene.scene, ["average_fps"], meter="second")
        for column, a, b in ((self.first, 100.0, 80.0), (self.second, 90.0, 85.0)):
            self.passes(self.walk, column, average_fps=self.around(a))
            self.passes(other, column, average_fps=self.around(b))
        Pair.objects.create(
            review=self.review, kind="instrument", test_a=self.walk, metric_a="average_fps", test_b=other,
            metric_b="average_fps",
        )  # fmt: skip
        (finding,) = self.said("pairs")
        self.assertIn("put the configurations in another order", finding["sentence"])


class OverTime(KindsTest):
    def sessions(self, column: Column, *groups: list[float]) -> None:
        for values in groups:
            passes = self.passes(self.walk, column, average_fps=values)
            Pass.objects.filter(pk__in=[one.pk for one in passes]).update(session=passes[0].pk)

    def test_a_cell_that_changed_from_one_session_to_the_next_is_named(self) -> None:
        self.sessions(self.first, [100.0, 100.2], [90.0, 90.2])
        self.sessions(self.second, [80.0, 80.2], [80.1, 80.1])
        (finding,) = self.said("time")
        self.assertIn("Of 2 cells measured in several sessions, 1 changed", finding["sentence"])
        self.assertIn("−10.0 % in Reef Walk 2, average on 35 W, behind", finding["sentence"])
        self.assertEqual(len(finding["lines"]), 2)

    def test_one_session_is_none_of_its_kind(self) -> None:
        self.sessions(self.first, [100.0, 100.2])
        self.assertEqual(self.said("time"), [])

    def test_what_an_update_cost_is_told_for_its_cell(self) -> None:
        passes = self.passes(self.walk, self.first, average_fps=[100.0, 100.2, 95.0, 95.2])
        for at, owner in enumerate(passes):
            Analysis.objects.create(
                owner=owner, method_version=4, summary={}, fingerprint={"graphics_driver": "31.2" if at < 2 else "31.4"}
            )
        self.passes(self.walk, self.second, average_fps=[80.0, 80.1])
        (finding,) = self.said("time")
        self.assertIn("from graphics driver 31.2 to graphics driver 31.4 −5.0 %", finding["sentence"])
        self.assertEqual(finding["verdict"], "behind")


class Blind(KindsTest):
    def test_a_held_rate_shows_nothing_and_says_what_would(self) -> None:
        for column in (self.first, self.second):
            self.passes(self.walk, column, average_fps=[60.0, 60.01, 59.99], held_fps=[60.0, 60.0, 60.0])
        (finding,) = self.said("blind")
        self.assertIn("average shows nothing of 20 W: it and the baseline are held at 60 fps", finding["sentence"])
        self.assertEqual((finding["sure"], finding["acts"][0]["kind"]), ("open", "advice"))

    def test_holes_are_put_on_the_docket_by_one_act(self) -> None:
        self.passes(self.walk, self.first, average_fps=self.around(60.0))
        (finding,) = self.said("blind")
        self.assertIn("1 cell has no figures, in 1 test", finding["sentence"])
        (act,) = finding["acts"]
        self.assertEqual((act["kind"], act["passes"]), ("owe", self.review.passes_per_test))
        self.assertEqual(act["cells"], [{"test": self.walk.pk, "column": self.second.pk, "passes": 3}])

    def test_a_corner_that_the_grid_lacks_is_named(self) -> None:
        self.vary("power_limit_w", "fan_profile")
        self.column("35 W, loud", fan_profile=3)
        for column in self.review.columns.all():
            self.passes(self.walk, column, average_fps=self.around(60.0))
        missing = [one for one in self.said("blind") if one["key"] == "blind-missing"]
        self.assertEqual(len(missing), 1)
        self.assertIn("power limit w 20 W, fan profile 3", missing[0]["sentence"])
        self.assertEqual(missing[0]["acts"][0]["kind"], "brief")


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
