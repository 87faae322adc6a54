"""Whatever has a name is found by its words, by whoever may see it."""

from typing import Any

from django.utils import timezone

from nomothet.server.overview.find import MOST
from nomothet.server.reviews.models import Review
from nomothet.server.shelf.models import Part
from nomothet.server.standings.models import SavedStanding, TestSet
from tests.server.base import Browser, SceneTest


class Find(SceneTest):
    def found(self, words: str, role: str = "reader") -> list[dict[str, Any]]:
        found: list[dict[str, Any]] = Browser(role).json(f"/api/find?words={words}")
        return found

    def test_each_kind_is_found_with_where_it_is(self) -> None:
        editor = self.scene.people["editor"]
        part = Part.objects.create(kind="graphics", name="Wren's Pike 8")
        made = TestSet.objects.create(name="Wren opens", by=editor, items=[])
        SavedStanding.objects.create(name="Wren in May", by=editor, query={"workload": "reef-walk", "words": "a&b"})
        paths = {(one["kind"], one["path"]) for one in self.found("wren")}
        self.assertIn(("system", f"/systems/{self.scene.columns[0].configuration.system_id}"), paths)
        self.assertIn(("part", f"/shelf?part={part.pk}"), paths)
        self.assertIn(("set of tests", f"/standings?set={made.pk}"), paths)
        self.assertIn(("saved standing", "/standings?workload=reef-walk&words=a%26b"), paths)
        kinds = {one["kind"] for one in self.found("reef+walk")}
        self.assertEqual(kinds, {"workload", "standing"})

    def test_every_word_has_to_stand_in_the_name(self) -> None:
        self.assertEqual([one["words"] for one in self.found("power+dome")], [self.scene.review.question])
        self.assertEqual(self.found("power+nowhere"), [])
        self.assertEqual(self.found(""), [])
        self.assertEqual(self.found("%25"), [])

    def test_a_record_is_found_until_it_is_withdrawn(self) -> None:
        self.fill(0, [60.0])
        slug = Browser("editor").send("post", f"{self.review_path}/records", {}).json()["slug"]
        (record,) = [one for one in self.found("dome") if one["kind"] == "record"]
        self.assertEqual((record["path"], record["public"]), (f"/records/{slug}", True))
        Browser("editor").send("put", f"/api/records/{slug}/withdrawn", {"why": "a mistake"})
        self.assertEqual([one for one in self.found("dome") if one["kind"] == "record"], [])

    def test_people_are_found_by_who_looks_after_them_alone(self) -> None:
        self.assertEqual(self.found("tester"), [])
        self.assertEqual([one["kind"] for one in self.found("tester", "admin")], ["person"])

    def test_of_many_the_latest_are_told_and_archived_ones_after_them(self) -> None:
        editor = self.scene.people["editor"]
        for at in range(MOST + 2):
            Review.objects.create(key=f"many-{at}", question=f"One of many {at}?", editor=editor)
        Review.objects.filter(key=f"many-{MOST + 1}").update(archived_at=timezone.now())
        found = [(one["words"], one["detail"]) for one in self.found("many")]
        live = [(f"One of many {at}?", "") for at in range(MOST, 0, -1)]
        self.assertEqual(found, [*live, (f"One of many {MOST + 1}?", "archived")])
