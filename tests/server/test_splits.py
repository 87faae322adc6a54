"""A configuration that is changed in the middle of a review: asked about, and answered in three ways."""

from typing import Any

from nomothet.server.docket.models import Entry
from nomothet.server.passes.models import Pass
from nomothet.server.systems.configurations import edit_configuration
from tests.server.base import Browser, SceneTest


class Splits(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.editor = Browser("editor")
        self.path = f"/api/reviews/{self.scene.review.pk}/splits"
        self.column = self.scene.columns[1]

    def change(self) -> None:
        """Two passes run, two are owed, and the machine is changed."""
        self.fill(1, [50.0, 51.0])
        self.scene.owe(column=1, count=2)
        own = self.column.configuration
        edit_configuration(self.scene.people["editor"], own, {"settings": {**own.settings, "image": 42}})

    def asked(self) -> Any:
        return self.editor.json(self.path)

    def answer(self, what: str, status: int = 200) -> Any:
        answer = self.editor.send("put", f"{self.path}/{self.column.pk}", {"answer": what})
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def owed(self, column: int) -> list[int]:
        found = Entry.objects.filter(column=column, state="owed").order_by("number")
        return list(found.values_list("number", flat=True))

    def test_nothing_is_asked_before_a_change_or_where_nothing_was_run_or_is_owed(self) -> None:
        self.assertEqual(self.asked(), [])
        self.fill(1, [50.0])
        own = self.column.configuration
        edit_configuration(self.scene.people["editor"], own, {"settings": {**own.settings, "image": 42}})
        self.assertEqual(self.asked(), [])

    def test_the_question_says_what_changed_and_how_much_is_owed(self) -> None:
        self.change()
        (asked,) = self.asked()
        self.assertEqual((asked["column"], asked["passes"], asked["owed"]), (self.column.pk, 2, 2))
        self.assertEqual(len(asked["changed"]), 1)
        self.assertIn("42", asked["changed"][0])
        self.assertIsNotNone(asked["since"])

    def test_with_the_change_it_goes_on_in_a_column_of_its_own_beside(self) -> None:
        self.change()
        passes = list(Pass.objects.values_list("pk", "column"))
        columns = self.answer("changed")["columns"]
        at = [one["id"] for one in columns].index(self.column.pk)
        made = columns[at + 1]
        self.assertEqual((made["continues"], made["revision"]), (self.column.pk, 2))
        self.assertTrue(made["label"].startswith(f"{self.column.label}, since "))
        self.assertEqual((self.owed(self.column.pk), self.owed(made["id"])), ([], [1, 2]))
        # What was measured stays where it was measured.
        self.assertEqual(list(Pass.objects.values_list("pk", "column")), passes)
        self.assertEqual(self.asked(), [])
        # The comparison across the split carries what differs.
        differences = self.editor.json(f"/api/reviews/{self.scene.review.pk}")["differences"]["rows"]
        image = next(row for row in differences if row["key"] == "image")
        self.assertIn(made["id"], image["flagged"])

    def test_as_before_it_stays_owed_and_the_same_revision_is_not_asked_about_again(self) -> None:
        self.change()
        self.answer("as before")
        self.assertEqual((self.owed(self.column.pk), self.asked()), ([3, 4], []))
        later = self.column.configuration.replaced_by
        self.fill(0, [60.0])
        edit_configuration(self.scene.people["editor"], later, {"settings": {**later.settings, "image": 43}})
        # One without passes is changed in place: it is the same revision that was decided about.
        self.assertEqual(self.asked(), [])

    def test_dropped_it_is_owed_no_more(self) -> None:
        self.change()
        self.answer("drop")
        self.assertEqual((self.owed(self.column.pk), self.asked()), ([], []))

    def test_it_is_decided_once_and_by_editors(self) -> None:
        self.change()
        self.problem(Browser("tester").send("put", f"{self.path}/{self.column.pk}", {"answer": "drop"}), 403)
        self.answer("drop")
        self.answer("changed", status=409)
        self.answer("perhaps", status=400)
