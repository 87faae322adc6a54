"""The demo as it is set up: eight reviews with their plans, systems, kits and prices, and flags put in on purpose."""

from pathlib import Path
from typing import Any

from django.test import TestCase, override_settings

from nomothet.core.docket_order import EXACT_UP_TO
from nomothet.formats.reading_rules import Rule, check_rule
from nomothet.server.demo.load import leave_machines, load_scenario
from nomothet.server.demo.scenario import Scenario
from nomothet.server.docket.queries import system_docket
from nomothet.server.planning.check import plan
from nomothet.server.reviews.differences import differences
from nomothet.server.reviews.models import Review
from nomothet.server.reviews.queries import review_shape
from nomothet.server.shelf.models import Part
from nomothet.server.systems.commands import issue_demo_token
from nomothet.server.systems.models import System
from nomothet.server.systems.queries import ConfigurationShape, configurations
from nomothet.server.workloads.models import Kind, Workload

DEMO = Path(__file__).resolve().parents[2] / "demo"


@override_settings(PASSWORD_HASHERS=["tests.server.fast_hasher.FastArgon2"])
class DemoPlans(TestCase):
    """No pass has been run here: this is the plan alone."""

    @classmethod
    def setUpTestData(cls) -> None:
        scenario = Scenario.read(DEMO)
        load_scenario(scenario, {name: f"pass-phrase-of-{name}" for name in scenario.usernames})
        leave_machines(scenario)

    def codes(self, key: str) -> set[str]:
        return {point.code for point in plan(Review.objects.get(key=key)).points}

    def configuration(self, name: str) -> ConfigurationShape:
        system = System.objects.get(configurations__name=name)
        return next(one for one in configurations(system) if one.name == name)

    def row(self, name: str, key: str) -> Any:
        return next(row for row in self.configuration(name).settings_table if row.key == key)

    def test_all_reviews_have_a_full_brief(self) -> None:
        self.assertEqual(Review.objects.count(), 11)
        for review in Review.objects.all():
            with self.subTest(review=review.key):
                shape = review_shape(review)
                self.assertTrue(shape.expectation and shape.audience and shape.constant and shape.expectation_at)
                self.assertGreaterEqual(len(shape.columns), 1 if shape.single else 2)
                self.assertGreaterEqual(len(shape.tests), 1)
                self.assertTrue(shape.factors or shape.single)
                self.assertEqual(sum(column.is_baseline for column in shape.columns), 1)
                for factor in shape.factors:
                    self.assertGreater(len(factor.levels), 1)
                    self.assertEqual({column.levels[factor.key] for column in shape.columns}, set(factor.levels))

    def test_every_important_flag_is_somewhere_on_purpose(self) -> None:
        found = {code for key in Review.objects.values_list("key", flat=True) for code in self.codes(key)}
        wanted = {"undeclared", "confounded", "requirement", "isolation", "cap", "load_step", "short"}
        wanted |= {"return", "price", "blocked", "slots"}
        self.assertLessEqual(wanted, found)

    def test_one_change_too_many_is_the_story_of_the_cabinet(self) -> None:
        rows = {row.key: row for row in differences(Review.objects.get(key="cabinet-cost")).rows}
        self.assertEqual(rows["door"].kind, "factor")
        self.assertEqual(rows["memory.kit"].kind, "undeclared")
        self.assertIn("memory.kit", rows["memory.channels"].parents)

    def test_driver_and_device_are_confounded_in_the_rendering_review(self) -> None:
        self.assertIn("confounded", self.codes("rendering"))

    def test_modules_in_the_wrong_slots_are_told(self) -> None:
        found = self.configuration("Heron as delivered").population
        assert found is not None
        self.assertEqual((found.channels, found.channels_of), (1, 2))
        self.assertEqual([mistake.kind for mistake in found.mistakes], ["wrong slots", "over the speed"])
        right = self.configuration("Heron on the open bench").population
        assert right is not None
        self.assertEqual((right.channels, right.peak_gbs, right.mistakes), (2, 89.6, []))

    def test_four_channels_of_the_workstation_are_in_use(self) -> None:
        found = self.configuration("Cormorant, all threads").population
        assert found is not None
        self.assertEqual((found.channels, found.capacity_gb), (4, 64))
        self.assertAlmostEqual(found.peak_gbs or 0, 153.6)

    def test_a_lost_memory_profile_is_flagged_and_a_half_reading_is_not(self) -> None:
        self.assertEqual(
            self.row("Heron on the open bench", "memory_mts").flag,
            "observed differs from what was set by more than 5 %",
        )
        half = self.row("Cormorant, all threads", "memory_mts")
        self.assertEqual((half.observed, half.flag), (2400, ""))

    def test_the_blocked_configuration_keeps_its_reason_and_owes_nothing(self) -> None:
        blocked = self.configuration("Heron with the long card")
        self.assertIn("longer than the 240 mm", blocked.blocked)
        self.assertFalse(
            System.objects.filter(configurations__column__entries__column__configuration=blocked.id).exists()
        )

    def test_configurations_are_told_as_what_differs(self) -> None:
        changes = {change.label: change.after for change in self.configuration("Wren at 15 W").changes}
        self.assertEqual(changes, {"power limit": "15 W", "fan profile": "3"})
        chain = self.configuration("Heron in the cabinet, filter and quiet fan")
        self.assertEqual([change.key for change in chain.changes], ["fan_profile"])
        self.assertEqual((chain.settings["door"], chain.settings["dust_filter"]), ("closed", "in"))

    def test_herons_docket_is_stopped_with_the_lost_profile_and_opens_the_machine_as_rarely_as_can_be(self) -> None:
        shape = system_docket(System.objects.select_related("present").get(key="heron"))
        assert shape.hold is not None
        self.assertEqual(shape.hold.key, "memory_mts")
        self.assertEqual(shape.openings, shape.fewest_openings)
        self.assertLessEqual(len({visit.configuration for visit in shape.visits}), EXACT_UP_TO)
        self.assertTrue(shape.exact)
        self.assertEqual(shape.visits[0].title, "Heron on the open bench")
        self.assertEqual(shape.visits[-1].title, "Heron on the open bench")
        opened = [visit for visit in shape.visits if visit.opens]
        self.assertEqual([visit.title for visit in opened][:1], ["Heron with one module"])
        words = [step.words for step in opened[0].steps]
        self.assertTrue(any("out of slot B2" in one for one in words), words)

    def test_cormorant_changes_nothing_by_hand_but_its_driver(self) -> None:
        system = System.objects.select_related("present").get(key="cormorant")
        # Its bench sets threads and device for each run; without one they would be steps.
        issue_demo_token(system)
        shape = system_docket(system)
        words = {step.words for visit in shape.visits for step in visit.steps if step.kind != "check"}
        self.assertEqual(words, {"Set graphics driver from 31.2 to 31.4."} & words)
        self.assertEqual(shape.openings, 0)

    def test_every_kind_of_workload_but_the_bare_ones_is_there_with_rules_that_work(self) -> None:
        kinds = set(Workload.objects.values_list("kind", flat=True))
        self.assertLessEqual({Kind.SCENE, Kind.SUITE, Kind.TASK, Kind.LOAD_SEARCH, Kind.SOAK}, kinds)
        rules = [rule for workload in Workload.objects.all() for rule in workload.rules]
        self.assertEqual({rule["kind"] for rule in rules}, {"text", "json", "table"})
        for rule in rules:
            check_rule(Rule(rule["kind"], rule["expression"], rule.get("metric", "")))

    def test_editions_that_are_not_comparable_are_told_apart(self) -> None:
        names = [test.name for test in review_shape(Review.objects.get(key="rendering")).tests]
        self.assertEqual(names[-2:], ["Loom 4", "Loom 3"])

    def test_prices_have_a_basis_and_a_foreign_one_its_rate(self) -> None:
        case = Part.objects.get(name="Cabinet shelf case").prices.get(basis="paid")
        self.assertEqual((case.currency, case.basis, float(case.euro_rate)), ("CHF", "paid", 1.064))
        self.assertGreater(Part.objects.filter(prices__isnull=False).distinct().count(), 12)

    def test_lent_and_given_machines_are_disclosed(self) -> None:
        origins = review_shape(Review.objects.get(key="racing-cabinet")).origins
        self.assertTrue(any(words.startswith("lent: ") and "Plover" in words for words in origins))
        self.assertTrue(any(words.startswith("donated: ") and "Cormorant" in words for words in origins))

    def test_the_cost_of_a_plan_is_told_with_its_assumptions(self) -> None:
        cost = plan(Review.objects.get(key="cabinet-cost")).cost
        self.assertEqual(cost.passes, 6 * 3 * 3)
        # A lap of 90 s, a walk of 60 s and a soak of half an hour, three times on six configurations.
        self.assertEqual(cost.running_s, 18 * (90 + 60 + 1800 + 3 * 20))
        self.assertIn("15 min for each opening", cost.words[0])
