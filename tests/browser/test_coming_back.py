"""What a person is told who comes back: to a review after days, and to a copy of one that was measured long ago."""

from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from nomothet.server.reviews.models import Review
from nomothet.server.systems.configurations import edit_configuration
from nomothet.server.talk.models import Looking
from tests.browser.base import BrowserTest
from tests.server.base import Browser, steady


class ComingBack(BrowserTest):
    def test_what_happened_meanwhile_is_told_until_it_is_read(self) -> None:
        tester = Browser("tester")
        tester.send("put", f"/api/reviews/{self.scene.review.pk}/looking", {"sheet": "matrix"})
        Looking.objects.update(at=timezone.now() - timedelta(days=2))
        self.scene.owe(column=1, count=2)
        self.bench.deliver(steady(60.0))
        self.bench.deliver(outcome="crashed", note="the picture froze")
        self.sign_in("tester", self.matrix_path)

        def look() -> None:
            page = self.page
            told = page.get_by_role("region", name="Since you were here")
            expect(told).to_contain_text("1 pass came in; 1 pass did not complete")
            expect(told.get_by_role("listitem")).to_contain_text("crashed")
            page.reload()
            expect(told).to_be_visible()
            told.get_by_role("button", name="read").click()
            expect(told).to_have_count(0)
            page.reload()
            expect(page.get_by_role("grid")).to_be_visible()
            expect(told).to_have_count(0)

        self.do(look)
        self.assertEqual(self.complaints, [])

    def test_a_copy_says_what_has_changed_since_its_original_was_measured(self) -> None:
        self.scene.owe()
        self.bench.deliver(steady(60.0))
        answer = Browser("editor").send("post", f"/api/reviews/{self.scene.review.pk}/copy")
        copy = Review.objects.get(pk=answer.json()["id"])
        first = self.scene.columns[0].configuration
        edit_configuration(self.scene.people["editor"], first, {"settings": {**first.settings, "image": 42}})
        self.sign_in("editor", f"/reviews/{copy.pk}/brief")

        def look() -> None:
            told = self.page.get_by_role("region", name="A copy")
            expect(told.get_by_role("link", name=self.scene.review.question)).to_be_visible()
            expect(told).to_contain_text("measured last on")
            expect(told).to_contain_text("Later revisions, not taken here")
            expect(told).to_contain_text(self.scene.columns[0].label)

        self.do(look)
        self.assertEqual(self.complaints, [])
