"""The shelf: parts with typed attributes, prices over time, files out and in."""

import csv
import io
import json
from datetime import timedelta

from django.utils import timezone

from nomothet.server.shelf.models import Part, Price
from tests.server.base import Browser
from tests.server.setting_up import SettingUp


class Parts(SettingUp):
    def add(self, **changes: object) -> object:
        body = {"kind": "memory_kit", "name": "one of 32", "attributes": [], **changes}
        return Browser("tester").send("post", "/api/parts", body)

    def part(self, pk: int) -> dict[str, object]:
        return next(one for one in Browser("reader").json("/api/parts") if one["id"] == pk)

    def test_a_part_keeps_its_attributes_with_their_source(self) -> None:
        attributes = [
            {"key": "rated_mts", "value": "5.6 GT/s", "source": "label"},
            {"key": "colour", "value": "green", "source": "belief"},
        ]
        made = self.add(attributes=attributes).json()
        self.assertEqual(
            [(one["value"], one["unit"], one["source"]) for one in made["attributes"]],
            [(5600, "MT/s", "label"), ("green", "", "belief")],
        )

    def test_a_kit_shows_the_arithmetic_of_its_label(self) -> None:
        derived = {one["label"]: one["value"] for one in self.part(self.large.pk)["derived"]}
        self.assertAlmostEqual(derived["peak on two channels"], 89.6)
        self.assertAlmostEqual(derived["first word after"], 12.857, places=3)
        self.assertEqual(derived["capacity"], 32)

    def test_what_cannot_be_is_refused_by_its_field_and_nothing_is_stored(self) -> None:
        before = Part.objects.count()
        for changes, field in (
            ({"attributes": [{"key": "rated_mts", "value": 5.6, "source": "label"}]}, "rated_mts"),
            ({"attributes": [{"key": "module_gb", "value": "16 W", "source": "label"}]}, "module_gb"),
            ({"name": "two of 8"}, "name"),
        ):
            with self.subTest(changes=changes):
                self.assertEqual(self.problem(self.add(**changes), 422)["field"], field)
        self.problem(self.add(kind="anvil"), 400)
        self.assertEqual(Part.objects.count(), before)

    def test_prices_are_kept_over_time_with_their_rate(self) -> None:
        path = f"/api/parts/{self.small.pk}/prices"
        tester = Browser("tester")
        price = {"amount": "48.00", "currency": "CHF", "on": "2026-02-01", "basis": "paid", "euro_rate": "1.064"}
        self.assertEqual(tester.send("post", path, price).status_code, 201)
        later = {"amount": "40", "currency": "EUR", "on": "2026-03-01", "basis": "used"}
        made = tester.send("post", path, later).json()
        self.assertEqual([one["on"] for one in made["prices"]], ["2026-03-01", "2026-02-01"])
        self.assertAlmostEqual(made["prices"][1]["euro"], 51.072)
        removed = tester.send("delete", f"/api/prices/{made['prices'][0]['id']}")
        self.assertEqual(removed.status_code, 204)
        acts = [event["act"] for event in Browser("reader").json(f"/api/history/part/{self.small.pk}")]
        self.assertEqual(acts[:3], ["price removed", "price added", "price added"])

    def test_impossible_prices_are_refused(self) -> None:
        path = f"/api/parts/{self.small.pk}/prices"
        price = {"amount": "48.00", "currency": "EUR", "on": "2026-02-01", "basis": "paid"}
        for field, value in (
            ("amount", "-1"),
            ("currency", "euro"),
            ("basis", "guess"),
            ("euro_rate", "-2"),
            ("euro_rate", "1.1"),
        ):
            with self.subTest(field=field):
                problem = self.problem(Browser("tester").send("post", path, {**price, field: value}), 400)
                self.assertIn(field, problem["errors"])
        foreign = self.problem(Browser("tester").send("post", path, {**price, "currency": "CHF"}), 400)
        self.assertIn("how many EUR one CHF was", str(foreign["errors"]["euro_rate"]))
        ahead = {**price, "on": str(timezone.localdate() + timedelta(days=30))}
        self.assertEqual(self.problem(Browser("tester").send("post", path, ahead), 422)["field"], "on")
        self.assertEqual(Price.objects.count(), 0)

    def test_an_edit_needs_the_version_it_was_made_on_and_shows_the_present_one(self) -> None:
        path = f"/api/parts/{self.small.pk}"
        self.problem(Browser("tester").send("patch", path, {"note": "x"}), 428)
        self.assertEqual(self.patch(path, {"note": "mine"}, 1).status_code, 200)
        late = self.problem(self.patch(path, {"note": "late"}, 1), 412)
        self.assertEqual((late["current"]["note"], late["current"]["version"]), ("mine", 2))
        changes = Browser("reader").json(f"/api/history/part/{self.small.pk}")[0]["changes"]
        self.assertEqual(changes, [{"field": "note", "before": "", "after": "mine"}])

    def test_a_part_in_use_is_archived_and_not_deleted(self) -> None:
        tester = Browser("tester")
        self.assertIn("Archive it", self.problem(tester.send("delete", f"/api/parts/{self.small.pk}"), 409)["detail"])
        self.assertEqual(tester.send("put", f"/api/parts/{self.small.pk}/archived").status_code, 204)
        self.assertNotIn(self.small.pk, [one["id"] for one in tester.json("/api/parts")])
        self.assertIn(self.small.pk, [one["id"] for one in tester.json("/api/parts?archived=true")])
        tester.send("delete", f"/api/parts/{self.small.pk}/archived")
        self.assertEqual(self.part(self.small.pk)["used_in"], ["as set up"])

    def test_a_duplicate_has_the_next_free_name_and_can_be_deleted(self) -> None:
        tester = Browser("tester")
        names = [tester.send("post", f"/api/parts/{self.small.pk}/copy").json() for _ in range(2)]
        self.assertEqual([one["name"] for one in names], ["two of 8 (2)", "two of 8 (3)"])
        self.assertEqual(tester.send("delete", f"/api/parts/{names[0]['id']}").status_code, 204)

    def test_parts_are_taken_from_what_the_bench_told(self) -> None:
        told = {"processor": "eight cores", "logical processors": "8", "graphics": "not readable"}
        self.bench.send("post", "/hello", {"inventory": told})
        path = f"/api/systems/{self.scene.system.pk}/inventory-parts"
        (made,) = Browser("tester").send("post", path).json()
        self.assertEqual((made["kind"], made["name"]), ("processor", "eight cores"))
        self.assertEqual([(a["value"], a["source"]) for a in made["attributes"]], [(8, "tool")])
        Browser("tester").send("post", path)
        self.assertEqual(Part.objects.filter(kind="processor").count(), 1)


class Files(SettingUp):
    def take(self, text: str) -> object:
        return Browser("tester").send("post", "/api/parts/import", {"text": text})

    def test_what_goes_out_comes_in_again_unchanged(self) -> None:
        for form in ("csv", "json"):
            with self.subTest(form=form):
                answer = Browser("reader").get(f"/api/parts.{form}")
                text = b"".join(answer.streaming_content) if answer.streaming else answer.content
                counts = self.take(text.decode()).json()
                self.assertEqual(counts, {"added": 0, "updated": 0, "unchanged": 2})
                Part.objects.filter(pk=self.small.pk).update(name=f"renamed {form}")
                self.assertEqual(self.take(text.decode()).json()["added"], 1)
                Part.objects.filter(name="two of 8").delete()
                Part.objects.filter(pk=self.small.pk).update(name="two of 8")

    def test_the_csv_has_a_row_for_each_attribute(self) -> None:
        text = b"".join(Browser("reader").get("/api/parts.csv").streaming_content).decode()
        rows = [row for row in csv.DictReader(io.StringIO(text)) if row["name"] == "two of 16"]
        self.assertEqual({row["attribute"]: row["value"] for row in rows}["rated_mts"], "5600")

    def test_an_import_is_taken_as_a_whole_or_not_at_all(self) -> None:
        before = list(Part.objects.values_list("name", flat=True))
        good = {"kind": "display", "name": "wall"}
        for bad, words in (
            ({"kind": "anvil", "name": "x"}, "part 2"),
            ({"kind": "display", "name": ""}, "needs a name"),
            ({"kind": "display", "name": "x", "attributes": [{"key": "refresh_hz", "value": -1}]}, "refresh rate"),
            ({"kind": "display", "name": "x", "origin": "found"}, "no origin"),
        ):
            with self.subTest(bad=bad):
                problem = self.problem(self.take(json.dumps([good, bad])), 422)
                self.assertIn(words, problem["detail"])
                self.assertIn("Nothing was imported", problem["detail"])
        self.assertEqual(list(Part.objects.values_list("name", flat=True)), before)

    def test_files_that_are_none_of_ours_are_explained(self) -> None:
        for text, words in (
            ("colour,size\nred,2\n", "no column kind"),
            ("[{", "no JSON"),
            ("[1, 2]", "holds objects"),
            ("kind,name,attribute,value\ndisplay,wall,refresh_hz,fast\n", "row 2"),
        ):
            with self.subTest(text=text):
                self.assertIn(words, self.problem(self.take(text), 422)["detail"])
