"""A person's data is taken out whole and without secrets, and their name is taken away where it stands."""

import json

from nomothet.server.history.commands import remember
from nomothet.server.history.models import Event
from nomothet.server.passes.models import Pass, Series
from nomothet.server.people.models import SecurityEvent, Token, User, Visit
from nomothet.server.people.tokens import make_token
from nomothet.server.records.models import Record
from nomothet.server.talk.models import Comment
from nomothet.server.upkeep.personal_data import erase, known_of
from tests.server.base import PASSWORD, Browser, SceneTest

NAME = "Ines Barrów"


class PersonalData(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.person = User.objects.create_user("ines", password=PASSWORD, display_name=NAME, role="editor")
        self.person.email = "ines@team.example"
        self.person.save()
        Browser("ines")
        self.token, self.secret = make_token(self.person, None, "nightly", "reading")
        self.fill(0, [60.0, 61.0])
        owner = Pass.objects.all()[0]
        Pass.objects.filter(pk=owner.pk).update(ran_by=NAME, note=f"{NAME} opened the case; Inesita did not.")
        Comment.objects.create(
            review=self.scene.review, text=f"As {NAME} says (@ines).", by=self.scene.people["editor"]
        )
        # A name to sign in with may be a word of the language.
        Comment.objects.create(
            review=self.scene.review, text="The ines of the case rattle.", by=self.scene.people["editor"]
        )
        Comment.objects.create(review=self.scene.review, text="Warm today.", by=self.person)
        remember(self.person, "review", self.scene.review.pk, "edited", {"editor": ["Editor", NAME]})
        Browser("ines").send("post", f"{self.review_path}/records", {})
        self.path = f"/api/people/{self.person.pk}/data"

    def everything(self) -> str:
        """All text of the database's tables, but for captures and frozen records."""
        told = []
        for model in (Pass, Comment, Event, SecurityEvent, User, Visit):
            told.append(json.dumps(list(model.objects.values()), default=str, ensure_ascii=False))
        return " ".join(told)

    def erase(self, in_records: bool = False, *also: str) -> None:
        User.objects.filter(pk=self.person.pk).update(is_active=False)
        self.person.refresh_from_db()
        erase(self.scene.people["admin"], None, self.person, in_records=in_records, also=also)
        self.person.refresh_from_db()

    def test_what_is_known_of_somebody_is_taken_out_by_them_and_by_admins_alone(self) -> None:
        own = Browser("ines").json("/api/account/data")
        self.assertEqual(own["account"][0]["email"], "ines@team.example")
        self.assertEqual([one["text"] for one in own["talk.comment"]], ["Warm today."])
        for kind in ("people.visit", "people.token", "history.event", "records.record"):
            self.assertTrue(own[kind], kind)
        told = Browser("admin").get(self.path)
        self.assertIn("attachment", told.headers["Content-Disposition"])
        self.assertEqual(json.loads(told.content)["account"], own["account"])
        self.problem(Browser("editor").get(self.path), 403)
        self.assertEqual(SecurityEvent.objects.filter(kind="exported", about=self.person).count(), 2)

    def test_no_secret_leaves_with_it(self) -> None:
        told = json.dumps(known_of(self.person))
        self.person.refresh_from_db()
        for secret in (self.secret, self.token.digest, self.person.password, Visit.objects.first().session_key):  # type: ignore[union-attr]
            self.assertNotIn(secret, told)

    def test_the_name_goes_everywhere_and_what_was_done_stays(self) -> None:
        count = {model: model.objects.count() for model in (Pass, Comment, Record, User)}
        self.erase()
        anonymous = f"former member {self.person.pk}"
        self.assertEqual({model: model.objects.count() for model in count}, count)
        text = self.everything()
        for gone in (NAME, json.dumps(NAME)[1:-1], "ines@team.example", '"ines"', "@ines)"):
            self.assertNotIn(gone, text)
        self.assertIn(f"{anonymous} opened the case; Inesita did not.", text)
        self.assertIn("The ines of the case rattle.", text)
        self.assertEqual(Comment.objects.get(text="Warm today.").by.display_name, anonymous)
        for kept in (Token, Visit):
            self.assertFalse(kept.objects.filter(user=self.person).exists())
        self.problem(Browser().send("post", "/api/session", {"username": "ines", "password": PASSWORD}), 401)
        self.assertEqual(SecurityEvent.objects.filter(by=self.person).exclude(address="").count(), 0)

    def test_published_records_keep_the_name_until_it_is_asked_for(self) -> None:
        self.erase()
        self.assertIn(NAME, Record.objects.get().content["published_by"])
        self.erase(True, NAME)
        record = Record.objects.get()
        self.assertFalse(NAME in json.dumps(record.content, ensure_ascii=False) + record.publisher)

    def test_captures_stay_byte_for_byte(self) -> None:
        before = list(Series.objects.order_by("pk").values_list("sha256", "blob"))
        self.erase(True)
        self.assertEqual(list(Series.objects.order_by("pk").values_list("sha256", "blob")), before)

    def test_who_still_works_here_is_not_made_nameless_and_the_name_is_typed_again(self) -> None:
        admin = Browser("admin")
        self.problem(admin.send("delete", self.path, {"username": "ines"}), 409)
        User.objects.filter(pk=self.person.pk).update(is_active=False)
        self.problem(admin.send("delete", self.path, {"username": "tester"}), 422)
        self.problem(Browser("editor").send("delete", self.path, {"username": "ines"}), 403)
        answer = admin.send("delete", self.path, {"username": "ines", "in_records": True})
        self.assertEqual(answer.json()["name"], f"former member {self.person.pk}")
        self.assertGreaterEqual(answer.json()["changed"], 3)
