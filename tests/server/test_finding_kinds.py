"""Each kind of finding where it fits, what it says there, and where it does not fit."""

import math
import unittest
from decimal import Decimal
from pathlib import Path

from nomothet.server.findings.kept import KINDS
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.shelf.models import Part, Price
from nomothet.server.systems.models import Configuration, Fitting
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser
from tests.server.finding_scene import KindsTest


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
