"""The first page of an empty installation, from the printed address to a first review."""

from playwright.sync_api import expect

from nomothet.server.people.beginning import offer_beginning
from nomothet.server.people.models import Role, User
from nomothet.server.reviews.models import Review
from tests.browser.base import BrowserTest


class Beginning(BrowserTest):
    def setUp(self) -> None:
        # No scene: nobody is there yet, and nothing.
        if not self.server.running:
            self.server.start()
        self.page = self.new_page()

    def test_a_team_begins_with_nothing_but_the_address(self) -> None:
        secret = offer_beginning()

        def begin() -> None:
            page = self.page
            page.goto(f"/begin#{secret}")
            page.get_by_label("The team").fill("The Wharf Bench")
            page.get_by_label("Your name").fill("Ines Vale")
            page.get_by_label("Name to sign in with").fill("ines")
            for label in ("Password", "The same again"):
                page.get_by_label(label, exact=True).fill("four tall ships at noon")
            page.get_by_role("button", name="Begin").click()
            expect(page.get_by_role("heading", name="Your first review")).to_be_visible()
            expect(page.get_by_role("banner")).to_contain_text("The Wharf Bench")
            page.get_by_label("What do you want to know?").fill("Is the new card worth its price?")
            page.get_by_label("Its name").first.fill("Otter")
            page.get_by_label("One has").fill("Pike 8")
            page.get_by_label("The other has").fill("Pike 12")
            page.get_by_label("Its name").last.fill("Harbour Run")
            page.get_by_role("button", name="Make the review").click()
            expect(page.get_by_role("region", name="Your first review")).to_contain_text("not done")

        self.do(begin)
        self.assertEqual(self.complaints, [])
        self.assertEqual([user.role for user in User.objects.all()], [Role.ADMIN])
        self.assertEqual(Review.objects.get().columns.count(), 2)

        def again() -> None:
            self.page.goto("/reviews")
            self.page.goto(f"/begin#{secret}")
            expect(self.page.get_by_text("This address was used")).to_be_visible()

        self.do(again)
