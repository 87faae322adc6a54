"""What parts and settings specify, against what the passes of a review showed."""

from typing import Any

import numpy as np

from nomothet.core.parts import read_attributes
from nomothet.server.shelf.models import Part
from nomothet.server.systems.models import Fitting
from tests.server.base import Browser, SceneTest, steady
from tests.server.recordings import deliver_recorded

SECONDS = 20


class Specified(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.fit("processor", "Tern 4", {"max_clock_mhz": 4600, "limit_c": {"value": 95, "source": "belief"}})

    def fit(self, kind: str, name: str, given: dict[str, Any]) -> None:
        attributes = [
            {"key": key, **(value if isinstance(value, dict) else {"value": value, "source": "label"})}
            for key, value in given.items()
        ]
        read = [vars(one) for one in read_attributes(kind, attributes)]
        part = Part.objects.create(kind=kind, name=name, attributes=read)
        for configuration in self.scene.configurations:
            Fitting.objects.create(configuration=configuration, place=kind, part=part)

    def bring(self, column: int, sensors: dict[tuple[str, str], Any], **changes: Any) -> str:
        self.scene.owe(column=column)
        frames = steady(60, 60 * SECONDS, seed=column)
        return deliver_recorded(self.bench, frames, sensors, duration_s=float(SECONDS), **changes)

    def told(self, what: str, column: int = 0) -> dict[str, Any]:
        found = Browser("reader").json(f"/api/reviews/{self.scene.review.pk}/specified")
        own = [one for one in found if one["column"] == self.scene.columns[column].pk and one["what"] == what]
        self.assertEqual(len(own), 1, found)
        return dict(own[0])

    def test_the_highest_reading_of_the_kept_passes_stands_against_the_part(self) -> None:
        self.bring(0, {("clock", "MHz"): np.r_[np.full(5, 4370.0), np.full(15, 4000.0)]})
        self.bring(0, {("clock", "MHz"): np.full(SECONDS, 3900.0)})
        odd = self.bring(0, {("clock", "MHz"): np.full(SECONDS, 5200.0)})
        Browser("tester").send("put", f"/api/passes/{odd}/set-aside", {"reason": "a sensor fault"})
        one = self.told("highest clock")
        self.assertEqual((one["of"], one["specified"], one["source"]), ("Tern 4", 4600, "label"))
        self.assertEqual((one["highest"], one["usual"], one["passes"]), (4370, 3950, 2))
        self.assertEqual((round(one["gap"], 6), one["verdict"]), (-5.0, "short"))
        self.assertEqual(one["test"], self.scene.tests[0].pk)

    def test_a_clock_in_another_unit_is_converted(self) -> None:
        self.bring(0, {("clock", "GHz"): np.full(SECONDS, 4.6)})
        self.assertEqual(self.told("highest clock")["verdict"], "reached")

    def test_a_temperature_is_told_in_kelvin(self) -> None:
        self.bring(0, {("temperature package", "°C"): np.full(SECONDS, 93.5)})
        one = self.told("highest temperature")
        self.assertEqual((one["gap"], one["verdict"], one["source"]), (-1.5, "at the limit", "belief"))

    def test_what_was_set_is_a_specification_too(self) -> None:
        self.bring(1, {("power package", "W"): np.full(SECONDS, 24.0)})
        one = self.told("power limit", column=1)
        self.assertEqual((one["specified"], one["verdict"], round(one["gap"], 6)), (20, "over", 20))

    def test_a_memory_speed_shown_as_its_clock_is_recognised(self) -> None:
        self.fit("memory_kit", "Weir 16", {"rated_mts": 5600})
        self.bring(0, {}, environment={"observed": {"memory_mts": 2800}})
        one = self.told("rated speed")
        self.assertEqual((one["highest"], one["verdict"]), (5600, "reached"))

    def test_what_was_not_measured_is_said(self) -> None:
        one = self.told("highest clock")
        self.assertEqual((one["verdict"], one["highest"], one["gap"], one["passes"]), ("not measured", None, None, 0))
