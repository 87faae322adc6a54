"""The book of a machine, and what is watched on it."""

from typing import Any

from nomothet.server.follow_ups.models import WatchItem
from nomothet.server.passes.models import Pass
from nomothet.server.standings.tasks import prepare_results
from nomothet.server.systems.models import System
from tests.server.base import Browser, SceneTest, steady
from tests.server.recordings import deliver_recorded


class Book(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.system = System.objects.get(key="wren")

    def entries(self, kind: str) -> list[dict[str, Any]]:
        prepare_results.func()
        found: list[dict[str, Any]] = Browser("reader").json(f"/api/systems/{self.system.pk}/book")["entries"]
        return [one for one in found if one["kind"] == kind]

    def test_passes_are_told_by_day_and_review_with_what_failed(self) -> None:
        self.fill(0, [60.0, 61.0])
        self.scene.owe(column=1)
        self.bench.deliver(outcome="crashed", note="the picture froze")
        (session,) = self.entries("session")
        first, second = (column.configuration.name for column in self.scene.columns)
        self.assertEqual(session["review"], self.scene.review.pk)
        told, _, question = session["words"].partition(": ")
        self.assertIn(
            told,
            [f"3 passes on {' and '.join(names)}, 1 of them failed" for names in ((first, second), (second, first))],
        )
        self.assertEqual(question, self.scene.review.question)
        (failed,) = self.entries("failed")
        self.assertIn("the picture froze", failed["words"])

    def test_an_update_is_seen_when_passes_first_tell_of_it(self) -> None:
        for column, driver, day in ((0, "31.4", "2026-05-04"), (1, "31.6", "2026-06-04")):
            self.scene.owe(column=column)
            self.bench.deliver(steady(60), environment={"graphics driver": driver})
            Pass.objects.filter(column=self.scene.columns[column]).update(started_at=f"{day}T10:00:00Z")
        (update,) = self.entries("update")
        self.assertEqual((update["words"], update["at"][:10]), ("graphics driver 31.6, before 31.4", "2026-06-04"))

    def test_what_people_did_to_it_is_told_setting_by_setting(self) -> None:
        configuration = self.scene.columns[1].configuration
        path = f"/api/configurations/{configuration.pk}"
        answer = Browser("tester").send("patch", path, {"settings": {"power_limit_w": 18}}, **{"If-Match": "*"})
        self.assertEqual(answer.status_code, 200, answer.content)
        (act,) = self.entries("act")
        self.assertIn("power limit 20 to 18", act["words"])
        self.assertTrue(act["by"])

    def test_months_tell_how_warm_it_ran(self) -> None:
        self.scene.owe(count=2)
        for peak in (70.0, 80.0):
            warm = [peak - 5] * 30 + [peak] * 40
            deliver_recorded(self.bench, steady(60, 4200), {("temperature", "°C"): warm})
        (month,) = Browser("reader").json(f"/api/systems/{self.system.pk}/book")["months"]
        self.assertEqual((month["month"], month["passes"]), ("2026-05", 2))
        self.assertEqual((month["median_c"], month["highest_c"]), (75.0, 80.0))

    def test_months_tell_the_wear_of_storage_where_a_sensor_does(self) -> None:
        self.scene.owe(count=2)
        for worn in ([3.0, 3.0], [3.0, 4.0]):
            deliver_recorded(self.bench, steady(60, 4200), {("drive wear", "%"): worn, ("processor use", "%"): [9, 9]})
        (month,) = Browser("reader").json(f"/api/systems/{self.system.pk}/book")["months"]
        self.assertEqual(month["wear"], [{"name": "drive wear", "percent": 4.0}])

    def test_a_machine_to_which_nothing_has_happened_has_an_empty_book(self) -> None:
        other = System.objects.create(key="heron", name="Heron")
        self.assertEqual(
            Browser("reader").json(f"/api/systems/{other.pk}/book"), {"entries": [], "months": [], "more": False}
        )


class Watched(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.system = System.objects.get(key="wren")
        self.path = f"/api/systems/{self.system.pk}/watch-items"

    def watched(self) -> list[str]:
        return [one["words"] for one in Browser("reader").json(f"{self.review_path}/watch-items")]

    def test_it_stands_in_every_brief_that_uses_the_machine_until_it_is_ended(self) -> None:
        tester = Browser("tester")
        made = tester.send("post", self.path, {"words": "cooler paste of March"}).json()
        tester.send("post", f"/api/systems/{System.objects.create(key='heron', name='Heron').pk}/watch-items",
                    {"words": "of another machine"})  # fmt: skip
        self.assertEqual(self.watched(), ["cooler paste of March"])
        path = f"/api/watch-items/{made['id']}/watched"
        self.assertTrue(tester.send("delete", path).json()["ended_by"])
        self.assertEqual(self.watched(), [])
        self.problem(tester.send("delete", path), 409)
        self.assertEqual(len(Browser("reader").json(self.path)), 1)
        tester.send("put", path)
        self.assertEqual(self.watched(), ["cooler paste of March"])
        self.assertEqual(WatchItem.objects.count(), 2)
        book = Browser("reader").json(f"/api/systems/{self.system.pk}/book")["entries"]
        self.assertEqual(len([one for one in book if "cooler paste" in one["words"]]), 3)

    def test_it_says_something(self) -> None:
        self.assertIn("words", self.problem(Browser("tester").send("post", self.path, {"words": " "}), 400)["errors"])
