"""What configurations cost: by which basis, in which money, and which parts count."""

from datetime import date
from typing import Any

from nomothet.server.shelf.models import Part, Price
from nomothet.server.systems.models import Configuration, Fitting
from nomothet.server.systems.prices import BASES, ConfigurationPrice, prices_of
from nomothet.server.systems.states import states
from tests.server.base import SceneTest


class Prices(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.made = 0

    def part(self, kind: str, **prices: float) -> Part:
        """A part with a price of each basis named."""
        self.made += 1
        part = Part.objects.create(kind=kind, name=f"{kind} {self.made}")
        for basis, amount in prices.items():
            self.price(part, amount, basis)
        return part

    def price(self, part: Part, amount: float, basis: str = "street", on: str = "2026-03-01", **more: Any) -> None:
        Price.objects.create(part=part, amount=amount, currency=more.pop("currency", "EUR"), on=on, basis=basis, **more)

    def configuration(self, *fitted: tuple[str, Part, int | None] | tuple[str, Part]) -> Configuration:
        made = Configuration.objects.create(system=self.scene.system, name=f"priced {Configuration.objects.count()}")
        for place, part, *module in fitted:
            Fitting.objects.create(configuration=made, place=place, part=part, module=module[0] if module else None)
        return made

    def of(self, *configurations: Configuration, basis: str = "", differing: bool = False) -> list[ConfigurationPrice]:
        found = prices_of(states(configurations), basis, differing=differing)
        return [found[one.pk] for one in configurations]

    def test_a_total_is_the_sum_of_the_latest_prices_and_since_the_oldest_of_them(self) -> None:
        board, card = self.part("board", street=100), self.part("graphics")
        self.price(card, 300, on="2025-12-01")
        self.price(card, 250, on="2026-01-05")
        (found,) = self.of(self.configuration(("board", board), ("graphics", card)))
        self.assertEqual((found.total, found.basis, found.on), (350, "street", date(2026, 1, 5)))
        self.assertEqual({one.part: one.amount for one in found.parts}, {board.name: 100, card.name: 250})

    def test_money_of_another_currency_counts_at_the_rate_of_its_day(self) -> None:
        card = self.part("graphics")
        self.price(card, 200, currency="SEK", euro_rate="0.09")
        (found,) = self.of(self.configuration(("graphics", card)))
        self.assertAlmostEqual(found.total or 0, 18)
        self.assertEqual((found.parts[0].amount, found.parts[0].currency), (200, "SEK"))

    def test_the_basis_is_the_one_that_most_have_and_street_of_equals(self) -> None:
        both, paid = self.part("graphics", street=300, paid=270), self.part("graphics", paid=120)
        first, second = self.configuration(("graphics", both)), self.configuration(("graphics", paid))
        self.assertEqual([one.total for one in self.of(first, second)], [270, 120])
        self.assertEqual([one.basis for one in self.of(first)], ["street"])
        asked = self.of(first, second, basis="street")
        self.assertEqual([one.total for one in asked], [300, None])
        self.assertEqual(asked[1].missing, [paid.name])
        self.assertIn(paid.name, asked[1].words)

    def test_a_second_drive_like_the_first_is_bought_again_and_a_kit_once(self) -> None:
        drive, kit = self.part("storage", street=80), self.part("memory kit", street=100)
        slots = [(f"slot {letter}1", kit, at) for at, letter in ((1, "A"), (2, "B"))]
        one = self.configuration(("storage", drive), *slots)
        two = self.configuration(("storage", drive), ("storage 2", drive), *slots)
        self.assertEqual([found.total for found in self.of(one, two)], [180, 260])
        self.assertEqual([found.total for found in self.of(one, two, differing=True)], [0, 80])

    def test_only_the_parts_that_differ_are_asked_for_a_price(self) -> None:
        board = self.part("board")
        cheap, dear = self.part("graphics", street=200), self.part("graphics", street=500)
        pair = [self.configuration(("board", board), ("graphics", card)) for card in (cheap, dear)]
        self.assertEqual([one.total for one in self.of(*pair)], [None, None])
        self.assertEqual([one.total for one in self.of(*pair, differing=True)], [200, 500])

    def test_a_machine_is_priced_as_it_came_and_what_has_a_price_of_its_own_is_added(self) -> None:
        machine = self.part("machine", street=900)
        came, added = self.part("graphics"), self.part("storage", street=60)
        whole = self.configuration(("machine", machine), ("graphics", came), ("storage", added))
        self.assertEqual([(one.total, one.missing) for one in self.of(whole)], [(960, [])])
        Price.objects.filter(part=machine).delete()
        (found,) = self.of(whole)
        self.assertEqual((found.total, found.missing), (None, [machine.name]))

    def test_nothing_fitted_has_no_price_and_a_system_image_needs_none(self) -> None:
        image = self.part("os_build")
        bare, board = self.configuration(("os_build", image)), self.part("board", street=50)
        self.assertIsNone(self.of(bare)[0].total)
        self.assertEqual(self.of(self.configuration(("board", board), ("os_build", image)))[0].total, 50)

    def test_every_basis_that_a_price_can_have_is_asked(self) -> None:
        for basis in BASES:
            with self.subTest(basis=basis):
                only = self.configuration(("graphics", self.part("graphics", **{basis: 10})))
                self.assertEqual([(one.total, one.basis) for one in self.of(only)], [(10, basis)])
