"""What happened in a review since somebody worked on it last."""

from datetime import timedelta
from typing import Any

from django.utils import timezone

from nomothet.server.talk.models import Looking
from tests.server.base import Browser, SceneTest


class Since(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.path = f"/api/reviews/{self.scene.review.pk}"
        self.me = Browser("tester")

    def look(self) -> None:
        self.me.send("put", f"{self.path}/looking", {"sheet": "matrix"})

    def away(self, **span: float) -> None:
        """The last look was a while ago."""
        Looking.objects.update(at=timezone.now() - timedelta(**span))

    def told(self) -> Any:
        return self.me.json(f"{self.path}/since")

    def test_who_was_never_here_or_has_not_been_away_is_told_nothing(self) -> None:
        self.assertIsNone(self.told()["since"])
        self.look()
        self.fill(0, [60.0])
        self.away(hours=7)
        self.assertIsNone(self.told()["since"])

    def test_after_days_it_says_what_came_in_what_failed_and_what_others_did(self) -> None:
        self.look()
        self.away(days=2)
        self.fill(0, [60.0, 61.0])
        self.scene.owe(column=1, count=2)
        self.bench.deliver(outcome="crashed")
        editor = Browser("editor")
        editor.send("post", f"{self.path}/talk", {"text": "look at this"})
        review = editor.json(self.path)
        editor.send("patch", self.path, {"constant": "the same table"}, **{"If-Match": f'"v{review["version"]}"'})
        told = self.told()
        self.assertEqual((told["passes"], told["failed"], told["comments"]), (2, 1, 1))
        self.assertEqual(told["failures"][0]["words"], "crashed")
        self.assertIn({"by": "Editor", "act": "edited", "count": 1}, told["acts"])
        self.assertGreaterEqual(told["owed"], 1)

    def test_what_one_did_oneself_is_not_told(self) -> None:
        self.look()
        self.away(days=2)
        self.me.send("post", f"{self.path}/talk", {"text": "mine"})
        self.assertEqual((self.told()["comments"], self.told()["acts"]), (0, []))

    def test_it_stays_until_it_is_read_however_long_one_looks(self) -> None:
        self.look()
        self.away(days=2)
        self.fill(0, [60.0])
        since = self.told()["since"]
        self.look()
        self.look()
        self.assertEqual((self.told()["since"], self.told()["passes"]), (since, 1))
        self.assertEqual(self.me.send("delete", f"{self.path}/since").status_code, 204)
        self.assertIsNone(self.told()["since"])
