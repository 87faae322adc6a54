"""A team begins: its first admin, made once by a secret; and a first review, whole or not at all."""

from typing import Any

from nomothet.server.people.beginning import offer_beginning
from nomothet.server.people.models import Role, SecurityEvent, Team, User
from nomothet.server.reviews.models import Review
from nomothet.server.shelf.models import Part
from nomothet.server.systems.models import Bench, System
from nomothet.server.workloads.models import Workload
from nomothet.server.workloads.templates import TEMPLATES
from tests.server.base import Browser, SceneTest
from tests.server.emptied import EmptiedTest

OWN = {
    "team": "The Wharf Bench", "username": "ines", "display_name": "Ines", "password": "four tall ships at noon",
}  # fmt: skip


class Beginning(EmptiedTest):
    path = "/api/beginning"

    def begin(self, secret: str | None, **changes: str) -> Any:
        return Browser().send("put", self.path, {**OWN, "secret": secret or "", **changes})

    def test_the_first_admin_is_made_once_and_signs_in(self) -> None:
        secret = offer_beginning()
        self.assertEqual(Browser().send("post", self.path, {"secret": secret}).status_code, 204)
        self.assertEqual(self.begin(secret).status_code, 204)
        user = User.objects.get()
        self.assertEqual((user.username, user.role, Team.settings().name), ("ines", Role.ADMIN, "The Wharf Bench"))
        self.assertTrue(user.check_password(OWN["password"]))
        self.assertEqual(SecurityEvent.objects.get(kind="begun").by, user)
        self.assertEqual(self.begin(secret, username="other").status_code, 410)
        self.assertIsNone(offer_beginning())
        self.assertEqual(User.objects.count(), 1)

    def test_a_guess_an_older_secret_and_no_secret_at_all_make_nobody(self) -> None:
        self.assertEqual(self.begin("guessed").status_code, 410)
        old, new = offer_beginning(), offer_beginning()
        self.assertEqual(self.begin(old).status_code, 410)
        self.assertEqual(User.objects.count(), 0)
        self.assertEqual(self.begin(new).status_code, 204)

    def test_a_password_that_the_rules_refuse_uses_nothing_up(self) -> None:
        secret = offer_beginning()
        answer = self.begin(secret, password="short")
        self.assertEqual((answer.status_code, answer.json()["field"]), (422, "password"))
        self.assertEqual(User.objects.count(), 0)
        self.assertEqual(self.begin(secret).status_code, 204)

    def test_the_secret_is_kept_as_a_digest(self) -> None:
        secret = offer_beginning()
        self.assertNotIn(secret, str(Team.objects.values().get()))


class FirstReview(SceneTest):
    path = "/api/first-review"

    def setUp(self) -> None:
        super().setUp()
        self.editor = Browser("editor")
        self.told = {
            "question": "Is the new card worth it?", "machine": "Otter",
            "parts": {"processor": "Ebb 6", "graphics": ""},
            "differing": "graphics", "a": "Pike 8", "b": "Pike 12", "template": "game", "workload": "Harbour Run",
            "version": "1.2",
        }  # fmt: skip

    def make(self, status: int = 201, **changes: Any) -> Any:
        answer = self.editor.send("post", self.path, {**self.told, **changes})
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_five_answers_make_a_review_that_waits_for_its_first_figures(self) -> None:
        review = Review.objects.get(pk=self.make()["id"])
        self.assertEqual(review.question, self.told["question"])
        self.assertEqual([column.label for column in review.columns.all()], ["Pike 8", "Pike 12"])
        self.assertEqual([factor["aspects"] for factor in review.factors], [["part.graphics"]])
        (test,) = review.tests.all()
        self.assertEqual((test.workload.name, test.workload.version), ("Harbour Run", "1.2"))
        self.assertEqual(test.shown, ["average_fps", "low_1pct"])
        system = System.objects.get(name="Otter")
        parts = {part.name for part in Part.objects.filter(fittings__configuration__system=system)}
        self.assertEqual(parts, {"Ebb 6", "Pike 8", "Pike 12"})
        self.assertEqual(self.editor.json("/api/account/preferences")["first_review"], review.pk)
        matrix = self.editor.json(f"/api/reviews/{review.pk}/matrix")
        self.assertTrue(matrix["rows"])

    def test_a_setting_can_be_what_differs(self) -> None:
        review = Review.objects.get(pk=self.make(differing="power_limit_w", a="35", b="65")["id"])
        told = [column.configuration.settings for column in review.columns.all()]
        self.assertEqual(told, [{"power_limit_w": 35.0}, {"power_limit_w": 65.0}])
        self.assertEqual(review.factors[0]["aspects"], ["power_limit_w"])

    def test_a_machine_whose_bench_has_told_its_parts_needs_no_typing(self) -> None:
        system = System.objects.create(key="heron", name="Heron")
        told = {"processor": "Ebb 8", "operating system": "Plain 12"}
        Bench.objects.create(system=system, token_hash="0" * 64, issued_at="2026-05-04T10:00:00Z", inventory=told)
        (machine,) = [one for one in self.editor.json(self.path)["machines"] if one["name"] == "Heron"]
        self.assertEqual(machine["told"], ["Ebb 8", "Plain 12"])
        self.make(system=machine["id"], machine="", parts={})
        base = system.configurations.get(name="as it is")
        self.assertEqual({fitting.part.name for fitting in base.fittings.all()}, {"Ebb 8", "Plain 12"})

    def test_every_kind_of_workload_can_be_the_first(self) -> None:
        for key, template in TEMPLATES.items():
            with self.subTest(key):
                made = self.make(template=key, workload=f"First {key}", machine=f"Machine {key}")
                (test,) = Review.objects.get(pk=made["id"]).tests.all()
                self.assertEqual(test.workload.kind, template.kind)
                self.assertTrue(test.shown)

    def test_what_cannot_be_is_named_and_leaves_nothing_behind(self) -> None:
        for changes, field in (
            ({"b": "Pike 8"}, "b"),
            ({"machine": " "}, "machine"),
            ({"parts": {"wheels": "4"}}, "parts"),
            ({"differing": "power_limit_w", "a": "much", "b": "little"}, "power_limit_w"),
        ):
            with self.subTest(field=field):
                before = (Review.objects.count(), System.objects.count(), Workload.objects.count())
                self.assertEqual(self.make(422, **changes).get("field"), field)
                after = (Review.objects.count(), System.objects.count(), Workload.objects.count())
                self.assertEqual(before, after)

    def test_the_same_names_again_are_the_same_parts_and_workload(self) -> None:
        self.make()
        again = Review.objects.get(pk=self.make(machine="Heron")["id"])
        self.assertEqual(Part.objects.filter(name="Pike 8").count(), 1)
        self.assertEqual(Workload.objects.filter(name="Harbour Run").count(), 1)
        self.assertEqual(again.columns.count(), 2)


class OwnPreferences(SceneTest):
    path = "/api/account/preferences"

    def test_they_are_kept_for_the_person_and_hints_stay_read(self) -> None:
        me, other = Browser("tester"), Browser("reader")
        plain = {"scheme": "system", "density": "roomy", "numbers": "point", "degrees": "C", "hints_read": [],
                 "first_review": None}  # fmt: skip
        plain |= {"email": "", "mail": [], "mail_works": False}
        self.assertEqual(me.json(self.path), plain)
        me.send("patch", self.path, {"scheme": "dark", "numbers": "comma", "degrees": "F", "hints_read": ["matrix"]})
        me.send("patch", self.path, {"hints_read": ["brief"]})
        self.assertEqual(
            me.json(self.path),
            {**plain, "scheme": "dark", "numbers": "comma", "degrees": "F", "hints_read": ["matrix", "brief"]},
        )
        self.assertEqual(other.json(self.path), plain)
        me.send("patch", self.path, {"hints_read": []})
        self.assertEqual(me.json(self.path)["hints_read"], [])

    def test_what_is_no_choice_is_refused(self) -> None:
        self.problem(Browser("tester").send("patch", self.path, {"scheme": "purple"}), 400)
