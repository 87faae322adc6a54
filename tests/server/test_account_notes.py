"""What the team asks of accounts, and what somebody is told of their own."""

import json
import tempfile
from datetime import timedelta
from pathlib import Path
from unittest import mock

import pyotp
from django.conf import settings
from django.test import override_settings
from django.utils import timezone

from nomothet.server.launch.renewing import renew
from nomothet.server.launch.secrets import ensure_secrets
from nomothet.server.people import keys, second_factor
from nomothet.server.people.models import SecurityEvent, Team, User, Visit
from tests.server.base import PASSWORD, Browser, SceneTest

NEW = "lantern-orchard-weir-37"


class SecondFactorAsked(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.admin = Browser("admin")

    def with_factor(self, username: str) -> None:
        User.objects.filter(username=username).update(totp=keys.sealed(pyotp.random_base32()))

    def ask(self, who: str, status: int = 200) -> None:
        answer = self.admin.send("put", "/api/team", {"second_factor": who})
        self.assertEqual(answer.status_code, status, answer.content)

    def test_who_asks_for_one_has_one(self) -> None:
        self.ask("admins", status=422)
        self.assertEqual(Team.settings().second_factor, "")
        self.with_factor("admin")
        self.ask("admins")
        self.assertEqual(self.admin.json("/api/team"), {"name": "", "two_signatures": False, "second_factor": "admins"})

    def test_whoever_needs_one_and_has_none_only_reads(self) -> None:
        self.with_factor("admin")
        self.ask("everybody")
        editor = Browser("editor")
        self.assertTrue(editor.json("/api/session")["owes_second_factor"])
        self.assertEqual(editor.json("/api/session")["may"], ["comment"])
        self.assertEqual(editor.get("/api/reviews").status_code, 200)
        refused = self.problem(editor.send("post", "/api/reviews", {"question": "Which?"}), 403)
        self.assertIn("set a second factor", refused["detail"])
        self.with_factor("editor")
        self.assertEqual(editor.send("post", "/api/reviews", {"question": "Which?"}).status_code, 201)

    def test_admins_are_asked_and_others_are_not(self) -> None:
        self.with_factor("admin")
        self.ask("admins")
        self.assertEqual(Browser("editor").send("post", "/api/reviews", {"question": "Which?"}).status_code, 201)
        User.objects.filter(username="editor").update(role="admin")
        self.problem(Browser("editor").send("post", "/api/reviews", {"question": "Which?"}), 403)

    def test_setting_one_is_not_refused_for_lack_of_it(self) -> None:
        self.with_factor("admin")
        self.ask("everybody")
        tester = Browser("tester")
        begun = tester.send("post", "/api/account/second-factor", {"password": PASSWORD}).json()
        code = pyotp.TOTP(begun["secret"]).now()
        self.assertEqual(tester.send("put", "/api/account/second-factor", {"code": code}).status_code, 200)
        self.assertFalse(tester.json("/api/session")["owes_second_factor"])


class Told(SceneTest):
    def told(self, browser: Browser) -> list[str]:
        return [one["kind"] for one in browser.json("/api/session")["changed"]]

    def test_a_new_password_is_told_at_the_next_sign_in_and_not_to_who_set_it(self) -> None:
        first = Browser()
        first.send("post", "/api/session", {"username": "editor", "password": PASSWORD, "code": ""})
        body = {"password": PASSWORD, "new": NEW}
        answer = first.send("put", "/api/account/password", body)
        self.assertLess(answer.status_code, 300, answer.content)
        self.assertEqual(self.told(first), [])
        later = Browser()
        signed_in = later.send("post", "/api/session", {"username": "editor", "password": NEW, "code": ""}).json()
        self.assertEqual([one["words"] for one in signed_in["changed"]], ["your password was changed"])
        self.assertEqual(later.send("put", "/api/account/told").status_code, 204)
        self.assertEqual(self.told(later), [])

    def test_what_an_admin_does_to_somebody_is_told_at_once(self) -> None:
        person = User.objects.get(username="tester").pk
        answer = Browser("admin").send("patch", f"/api/people/{person}", {"role": "editor"})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(self.told(Browser("tester")), ["role set"])
        self.assertEqual(self.told(Browser("admin")), [])

    def test_what_others_did_to_their_own_is_not_told(self) -> None:
        editor, reader = User.objects.get(username="editor"), Browser("reader")
        SecurityEvent.objects.create(kind="token made", by=editor)
        SecurityEvent.objects.create(kind="reset offered", by=editor, about=User.objects.get(username="tester"))
        self.assertEqual(self.told(reader), [])

    def test_the_password_of_an_invitation_is_no_news(self) -> None:
        reader = User.objects.get(username="reader")
        SecurityEvent.objects.create(kind="password set", by=reader, values={"link": "invitation"})
        SecurityEvent.objects.update(at=timezone.now() - timedelta(hours=1))
        self.assertEqual(self.told(Browser("reader")), [])


class Renewed(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.var = Path(folder.name)
        ensure_secrets(self.var)
        kept = self.secrets()
        (self.var / "secrets.json").write_text(json.dumps({**kept, "secret_key": settings.SECRET_KEY}))

    def secrets(self) -> dict[str, str]:
        return dict(json.loads((self.var / "secrets.json").read_text()))

    def test_codes_of_the_second_factor_hold_under_the_new_key_and_sessions_end(self) -> None:
        secret = pyotp.random_base32()
        User.objects.filter(username="editor").update(totp=keys.sealed(secret))
        Browser("editor")
        before = self.secrets()
        self.assertGreaterEqual(renew(self.var), 1)
        after = self.secrets()
        self.assertEqual(Visit.objects.count(), 0)
        for name in ("secret_key", "database_password"):
            self.assertNotEqual(before[name], after[name])
        self.assertEqual((self.var / "secrets.json").stat().st_mode & 0o777, 0o600)
        editor = User.objects.get(username="editor")
        with override_settings(SECRET_KEY=after["secret_key"], EARLIER_KEYS=[]):
            self.assertEqual(keys.unsealed(editor.totp), secret)
            self.assertEqual(second_factor.check_code(editor, pyotp.TOTP(secret).now()), "code")

    def test_what_was_sealed_meanwhile_is_read_too(self) -> None:
        sealed = keys.sealed("begun by a server that still ran")
        renew(self.var)
        kept = self.secrets()
        with override_settings(SECRET_KEY=kept["secret_key"], EARLIER_KEYS=kept["earlier_keys"]):
            self.assertEqual(keys.unsealed(sealed), "begun by a server that still ran")

    def test_nothing_changes_when_it_fails(self) -> None:
        User.objects.filter(username="editor").update(totp=keys.sealed("secret"))
        before, sealed = self.secrets(), User.objects.get(username="editor").totp
        with mock.patch("nomothet.server.launch.renewing.write", side_effect=OSError), self.assertRaises(OSError):
            renew(self.var)
        self.assertEqual(self.secrets(), before)
        self.assertEqual(User.objects.get(username="editor").totp, sealed)
