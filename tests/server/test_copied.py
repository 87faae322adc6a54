"""What has changed since the review that one is a copy of."""

from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Review
from nomothet.server.shelf.models import Part, Price
from nomothet.server.systems.configurations import edit_configuration
from nomothet.server.systems.models import Fitting
from nomothet.server.workloads.models import Workload
from tests.server.base import Browser, SceneTest


class Copied(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.editor = Browser("editor")

    def copy(self) -> Review:
        answer = self.editor.send("post", f"/api/reviews/{self.scene.review.pk}/copy")
        self.assertEqual(answer.status_code, 201, answer.content)
        return Review.objects.get(pk=answer.json()["id"])

    def told(self, review: Review) -> Any:
        return self.editor.json(f"/api/reviews/{review.pk}/copied")

    def test_a_review_of_its_own_is_a_copy_of_nothing(self) -> None:
        self.assertIsNone(self.told(self.scene.review)["review"])

    def test_where_nothing_has_changed_it_says_when_the_source_was_measured(self) -> None:
        self.fill(0, [60.0])
        told = self.told(self.copy())
        self.assertEqual(told["review"], self.scene.review.pk)
        self.assertEqual(told["measured_on"], Pass.objects.get().started_at.date().isoformat())
        self.assertEqual([told[name] for name in ("revisions", "editions", "prices", "people")], [[], [], [], []])

    def test_later_revisions_and_newer_versions_are_named(self) -> None:
        self.fill(0, [60.0])
        made = self.copy()
        own = self.scene.columns[0].configuration
        edit_configuration(self.scene.people["editor"], own, {"settings": {**own.settings, "image": 42}})
        workload = self.scene.tests[0].workload
        Workload.objects.create(key=workload.key, version="99", name=workload.name, kind=workload.kind)
        told = self.told(made)
        self.assertEqual(len(told["revisions"]), 1)
        self.assertTrue(told["revisions"][0].startswith(f"{self.scene.columns[0].label}: "))
        self.assertIn("42", told["revisions"][0])
        self.assertEqual(told["editions"], [f"{workload.name}: version 99 is there, {workload.version} is planned"])

    def test_prices_of_then_and_now_and_who_is_gone_are_told(self) -> None:
        own = self.scene.columns[0].configuration
        part = Part.objects.create(name="a card", kind="graphics card")
        Fitting.objects.create(configuration=own, place="graphics card", part=part)
        today = timezone.localdate()
        Price.objects.create(part=part, amount=Decimal(300), basis="street", on=today - timedelta(days=400))
        Price.objects.create(part=part, amount=Decimal(240), basis="street", on=today)
        self.fill(0, [60.0])
        gone = self.scene.people["tester"]
        Pass.objects.update(started_at=timezone.now() - timedelta(days=200), brought_by=gone)
        made = self.copy()
        gone.is_active = False
        gone.save()
        told = self.told(made)
        self.assertEqual(told["people"], [gone.display_name])
        self.assertEqual(told["prices"][0], f"{self.scene.columns[0].label}: 240 € now, 300 € then")
        self.assertLess(date.fromisoformat(told["measured_on"]), today)
