"""Accounts in the browser: invited, a second factor taken into use, signed in with it, signed out from outside."""

import re

import pyotp
from playwright.sync_api import expect

from nomothet.server.people.models import User
from tests.browser.base import BrowserTest
from tests.server.base import PASSWORD, Browser

NEW = "lantern-orchard-weir-37"


class Accounts(BrowserTest):
    def test_somebody_is_invited_and_sets_a_password_by_the_link(self) -> None:
        self.sign_in("admin", "/people")

        def invite() -> str:
            page = self.page
            page.get_by_role("button", name="Invite somebody").click()
            page.get_by_label("How the person is called").fill("Nora Vale")
            page.get_by_label("Name to sign in with").fill("nora")
            page.get_by_role("button", name="Make the link").click()
            link = page.locator("[data-link]").inner_text()
            page.get_by_role("button", name="I have passed it on").click()
            expect(page.get_by_role("row", name=re.compile("Nora Vale"))).to_contain_text("invited")
            return link

        link = self.do(invite)
        self.page = self.new_page()

        def arrive() -> None:
            page = self.page
            page.goto(link)
            expect(page.get_by_role("heading", name="Welcome, Nora Vale")).to_be_visible()
            page.get_by_label("Password").fill(NEW)
            page.get_by_label("The same again").fill(NEW + "x")
            page.get_by_role("button", name="Set the password").click()
            expect(page.get_by_role("alert")).to_contain_text("not the same")
            page.get_by_label("The same again").fill(NEW)
            page.get_by_role("button", name="Set the password").click()
            page.get_by_role("link", name="Sign in as nora").click()
            page.get_by_label("Name").fill("nora")
            page.get_by_label("Password").fill(NEW)
            page.get_by_role("button", name="Sign in").click()
            expect(page.get_by_role("button", name="Nora Vale, your account")).to_be_visible()

        self.do(arrive)
        self.assertEqual(self.complaints, [])

    def test_a_second_factor_is_taken_into_use_and_asked_for(self) -> None:
        self.sign_in("tester", "/account")

        def begin() -> str:
            page = self.page
            page.get_by_role("button", name="Begin a second factor").click()
            page.get_by_label("Your password").fill(PASSWORD)
            page.get_by_role("button", name="Go on").click()
            dialog = page.get_by_role("dialog", name="Take it into your app")
            expect(dialog.get_by_role("img")).to_be_visible()
            secret = re.findall(r"secret: (\w+)", dialog.inner_text())[0]
            dialog.get_by_label("The code that the app shows now").fill(pyotp.TOTP(secret).now())
            dialog.get_by_role("button", name="Take it into use").click()
            codes = page.get_by_role("list", name="Recovery codes").get_by_role("listitem")
            expect(codes).to_have_count(10)
            code = codes.first.inner_text()
            page.get_by_role("button", name="I have kept them").click()
            expect(page.get_by_role("region", name="Second factor")).to_contain_text("10 recovery codes are left")
            return code

        recovery = self.do(begin)
        self.assertEqual(self.complaints, [])
        self.page = self.new_page()

        def sign_in() -> None:
            page = self.page
            page.goto("/")
            page.get_by_label("Name").fill("tester")
            page.get_by_label("Password").fill(PASSWORD)
            page.get_by_role("button", name="Sign in").click()
            page.get_by_label("Code").fill("000000")
            page.get_by_role("button", name="Sign in").click()
            expect(page.get_by_role("alert")).to_contain_text("This code is wrong")
            page.get_by_label("Code").fill(recovery)
            page.get_by_role("button", name="Sign in").click()
            expect(page.get_by_role("button", name="Tester, your account")).to_be_visible()

        self.do(sign_in)

    def test_who_is_signed_out_from_outside_is_led_to_the_way_in_and_back(self) -> None:
        self.sign_in("tester", "/systems")

        def there() -> None:
            expect(self.page.get_by_role("heading", name="Systems")).to_be_visible()

        self.do(there)
        person = User.objects.get(username="tester").pk
        Browser("admin").send("delete", f"/api/people/{person}/sessions")

        def again() -> None:
            page = self.page
            page.get_by_role("link", name="Workloads").click()
            page.get_by_label("Password").fill(PASSWORD)
            page.get_by_label("Name").fill("tester")
            page.get_by_role("button", name="Sign in").click()
            expect(page.get_by_role("heading", name="Workloads")).to_be_visible()

        self.do(again)
