"""Accounts: invited, disabled, given a new password, signed in with a second factor, signed out elsewhere."""

import threading
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from datetime import timedelta
from typing import Any
from unittest import TestCase, mock

import pyotp
from django.contrib.auth.hashers import Argon2PasswordHasher
from django.test import override_settings
from django.utils import timezone

from nomothet.server.people import hashing, second_factor, throttle
from nomothet.server.people.hashing import AT_ONCE, BoundedArgon2
from nomothet.server.people.models import Failures, OneTimeLink, SecurityEvent, User, Visit
from nomothet.server.problems import Problem
from tests.server.base import PASSWORD, Browser, SceneTest

NEW = "lantern-orchard-weir-37"


class Accounts(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.admin = Browser("admin")

    def sign_in(self, username: str, password: str = PASSWORD, code: str = "", status: int = 200) -> Browser:
        browser = Browser()
        answer = browser.send("post", "/api/session", {"username": username, "password": password, "code": code})
        self.assertEqual(answer.status_code, status, answer.content)
        self.answer: Any = answer.json()
        return browser

    def kinds(self) -> list[str]:
        return list(SecurityEvent.objects.order_by("pk").values_list("kind", flat=True))

    def person(self, username: str) -> str:
        return f"/api/people/{User.objects.get(username=username).pk}"


class Invited(Accounts):
    def invite(self, **changes: str) -> Any:
        body = {"username": "nora", "display_name": "Nora Vale", "role": "tester", **changes}
        return self.admin.send("post", "/api/people", body)

    def test_somebody_sets_the_first_password_by_a_link_that_works_once(self) -> None:
        offered = self.invite().json()
        self.assertEqual((offered["person"]["state"], offered["person"]["role"]), ("invited", "tester"))
        self.sign_in("nora", "", status=400)
        told = Browser().send("post", "/api/welcome", {"secret": offered["secret"]}).json()
        self.assertEqual(told, {"username": "nora", "display_name": "Nora Vale", "purpose": "invitation"})
        use = {"secret": offered["secret"], "password": NEW}
        self.assertEqual(Browser().send("put", "/api/welcome", use).status_code, 200)
        self.problem(Browser().send("put", "/api/welcome", use), 410)
        self.sign_in("nora", NEW)
        self.assertEqual(self.answer["display_name"], "Nora Vale")
        people = {one["username"]: one for one in self.admin.json("/api/people")}
        self.assertEqual((people["nora"]["state"], people["nora"]["sessions"]), ("active", 1))

    def test_its_secret_is_kept_nowhere(self) -> None:
        secret = self.invite().json()["secret"]
        self.assertNotIn(secret, str(list(OneTimeLink.objects.values())))
        self.assertNotIn(secret, str(list(SecurityEvent.objects.values())))

    def test_the_rules_of_passwords_hold_on_this_way_in_too(self) -> None:
        secret = self.invite().json()["secret"]
        for password in ("short", "q1w2e3r4t5y6", "Nora Vale 2026"):
            with self.subTest(password):
                self.problem(Browser().send("put", "/api/welcome", {"secret": secret, "password": password}), 422)
        self.assertEqual(Browser().send("post", "/api/welcome", {"secret": secret}).status_code, 200)

    def test_a_link_that_is_too_old_or_was_replaced_or_guessed_is_not_valid(self) -> None:
        first = self.invite().json()["secret"]
        second = self.admin.send("post", f"{self.person('nora')}/reset", {}).json()["secret"]
        self.problem(Browser().send("post", "/api/welcome", {"secret": first}), 410)
        OneTimeLink.objects.update(expires_at=timezone.now() - timedelta(seconds=1))
        self.problem(Browser().send("post", "/api/welcome", {"secret": second}), 410)
        for _ in range(throttle.FREE_OF_ADDRESS):
            Browser().send("post", "/api/welcome", {"secret": "guessed"})
        self.problem(Browser().send("post", "/api/welcome", {"secret": "guessed"}), 429)

    def test_a_name_is_taken_once_and_has_plain_letters(self) -> None:
        self.assertEqual(self.invite().status_code, 201)
        self.problem(self.invite(username="Nora"), 409)
        for name in ("with space", "-x", "ä", "../x", "a" * 41):
            with self.subTest(name):
                self.assertIn(self.invite(username=name).status_code, (400, 422))

    def test_nobody_but_admins_manages_people(self) -> None:
        other = self.person("reader")
        for role in ("reader", "tester", "editor"):
            for method, path, body in (
                ("get", "/api/people", None),
                ("post", "/api/people", {"username": "x", "display_name": "X", "role": "admin"}),
                ("patch", other, {"role": "admin"}),
                ("patch", other, {"active": False}),
                ("post", f"{other}/reset", {}),
                ("delete", f"{other}/sessions", None),
                ("get", "/api/security-log", None),
                ("get", "/api/security-log.csv", None),
            ):
                with self.subTest(role=role, method=method, path=path):
                    browser = Browser(role)
                    answer = browser.get(path) if method == "get" else browser.send(method, path, body)
                    self.problem(answer, 403)

    def test_no_script_manages_people_even_with_an_admins_token(self) -> None:
        secret = self.admin.send("post", "/api/tokens", {"name": "x", "scope": "recording"}).json()["secret"]
        for path in ("/api/people", "/api/account", "/api/security-log"):
            answer = Browser().get(path, Authorization=f"Bearer {secret}")
            self.problem(answer, 401)


class Managed(Accounts):
    def test_a_role_holds_from_the_next_request_on(self) -> None:
        tester = self.sign_in("tester")
        self.assertEqual(self.admin.send("patch", self.person("tester"), {"role": "reader"}).status_code, 200)
        path = f"{self.review_path}/docket"
        body = {"tests": [self.scene.tests[0].pk], "columns": [self.scene.columns[0].pk], "passes": 1}
        self.problem(tester.send("post", path, body), 403)

    def test_somebody_disabled_is_out_everywhere_and_stays_on_record(self) -> None:
        editor = self.sign_in("editor")
        editor.send("patch", self.review_path, {"audience": "v"}, **{"If-Match": '"v1"'})
        secret = editor.send("post", "/api/tokens", {"name": "x", "scope": "reading"}).json()["secret"]
        self.assertEqual(self.admin.send("patch", self.person("editor"), {"active": False}).status_code, 200)
        self.problem(editor.get("/api/reviews"), 401)
        self.problem(Browser().get("/api/reviews", Authorization=f"Bearer {secret}"), 401)
        self.sign_in("editor", status=401)
        history = Browser("reader").json(f"/api/history/review/{self.scene.review.pk}")
        self.assertIn("Editor", str(history))
        self.admin.send("patch", self.person("editor"), {"active": True})
        self.sign_in("editor")

    def test_the_last_admin_stays_one(self) -> None:
        for change in ({"role": "reader"}, {"active": False}):
            self.problem(self.admin.send("patch", self.person("admin"), change), 409)
        self.admin.send("patch", self.person("editor"), {"role": "admin"})
        self.assertEqual(self.admin.send("patch", self.person("admin"), {"role": "reader"}).status_code, 200)

    def test_a_reset_ends_sessions_and_gives_a_link(self) -> None:
        tester = self.sign_in("tester")
        secret = self.admin.send("post", f"{self.person('tester')}/reset", {}).json()["secret"]
        self.problem(tester.get("/api/reviews"), 401)
        Browser().send("put", "/api/welcome", {"secret": secret, "password": NEW})
        self.sign_in("tester", status=401)
        self.sign_in("tester", NEW)

    def test_sessions_are_ended_from_outside(self) -> None:
        tester = self.sign_in("tester")
        self.assertEqual(self.admin.send("delete", f"{self.person('tester')}/sessions").status_code, 200)
        self.problem(tester.get("/api/reviews"), 401)

    def test_what_was_done_stands_in_the_log_and_in_its_file(self) -> None:
        self.admin.send("patch", self.person("tester"), {"role": "editor"})
        self.sign_in("nobody-of-this-name", "a password typed here", status=401)
        log = self.admin.json("/api/security-log")
        self.assertEqual([one["kind"] for one in log], ["sign-in refused", "role set"])
        self.assertEqual((log[1]["by"], log[1]["about"]), ("admin", "tester"))
        self.assertIn("after editor", log[1]["values"])
        self.assertNotIn("nobody-of-this-name", str(list(SecurityEvent.objects.values())))
        text = b"".join(self.admin.get("/api/security-log.csv").streaming_content).decode()  # type: ignore[attr-defined]
        self.assertIn("role set,admin,tester,127.0.0.1", text)
        self.assertIn("exported", self.kinds())


class OwnAccount(Accounts):
    def test_a_new_password_ends_the_other_sessions(self) -> None:
        here, elsewhere = self.sign_in("tester"), self.sign_in("tester")
        body = {"password": PASSWORD, "new": NEW}
        self.assertEqual(here.send("put", "/api/account/password", body).status_code, 200)
        self.assertEqual(here.get("/api/reviews").status_code, 200)
        self.problem(elsewhere.get("/api/reviews"), 401)
        self.sign_in("tester", status=401)
        self.sign_in("tester", NEW)

    def test_the_old_password_is_asked_for_and_the_rules_hold(self) -> None:
        here = self.sign_in("tester")
        self.problem(here.send("put", "/api/account/password", {"password": "wrong", "new": NEW}), 422)
        for new in ("short", "q1w2e3r4t5y6"):
            with self.subTest(new):
                self.problem(here.send("put", "/api/account/password", {"password": PASSWORD, "new": new}), 422)
        self.sign_in("tester")

    def test_a_password_that_is_hashed_anew_on_the_way_ends_no_session(self) -> None:
        here = self.sign_in("tester")
        with mock.patch.object(BoundedArgon2, "must_update", return_value=True):
            begun = here.send("post", "/api/account/second-factor", {"password": PASSWORD})
        self.assertEqual(begun.status_code, 201)
        self.assertEqual(here.get("/api/reviews").status_code, 200)

    def test_sessions_are_listed_with_where_they_are_and_ended_one_by_one(self) -> None:
        here, elsewhere = self.sign_in("tester"), self.sign_in("tester")
        sessions = here.json("/api/account")["sessions"]
        self.assertEqual(sorted(one["here"] for one in sessions), [False, True])
        self.assertEqual({one["address"] for one in sessions}, {"127.0.0.1"})
        other = next(one["id"] for one in sessions if not one["here"])
        self.assertEqual(here.send("delete", f"/api/account/sessions/{other}").status_code, 200)
        self.problem(elsewhere.get("/api/reviews"), 401)
        self.assertEqual(len(here.json("/api/account")["sessions"]), 1)
        self.problem(here.send("delete", "/api/account/sessions/other"), 404)
        self.sign_in("tester")
        here.send("delete", "/api/account/sessions")
        self.assertEqual(Visit.objects.filter(user__username="tester").count(), 1)

    def test_nobody_ends_a_session_of_somebody_else(self) -> None:
        editor = self.sign_in("editor")
        (own,) = editor.json("/api/account")["sessions"]
        self.problem(self.sign_in("tester").send("delete", f"/api/account/sessions/{own['id']}"), 404)
        self.assertEqual(editor.get("/api/reviews").status_code, 200)

    def test_a_session_is_over_when_it_is_not_used_and_when_it_is_old(self) -> None:
        now = timezone.now()
        for idle_s, old_s in ((60, 10**6), (10**6, 60)):
            with self.subTest(idle_s=idle_s), override_settings(SESSION_IDLE_S=idle_s, SESSION_COOKIE_AGE=old_s):
                browser = self.sign_in("tester")
                self.assertEqual(browser.get("/api/reviews").status_code, 200)
                with mock.patch.object(timezone, "now", return_value=now + timedelta(minutes=5)):
                    self.problem(browser.get("/api/reviews"), 401)

    def test_use_keeps_a_session_going(self) -> None:
        now = timezone.now()
        with override_settings(SESSION_IDLE_S=300, SESSION_COOKIE_AGE=10**6):
            browser = self.sign_in("tester")
            for minutes in (4, 8, 12):
                with mock.patch.object(timezone, "now", return_value=now + timedelta(minutes=minutes)):
                    self.assertEqual(browser.get("/api/reviews").status_code, 200)


class HeldBack(Accounts):
    def test_it_takes_longer_each_time_whether_there_is_such_a_name_or_not(self) -> None:
        for name in ("editor", "nobody"):
            with self.subTest(name):
                Failures.objects.all().delete()
                for _ in range(throttle.FREE_OF_NAME):
                    self.sign_in(name, "wrong", status=401)
                self.sign_in(name, "wrong", status=429)
                self.assertEqual(self.answer["retry_after_s"], 1)
                Failures.objects.update(last_at=timezone.now() - timedelta(seconds=2))
                self.sign_in(name, "wrong", status=401)
                self.sign_in(name, "wrong", status=429)
                self.assertEqual(self.answer["retry_after_s"], 2)

    def test_held_back_even_the_right_password_is_not_tried(self) -> None:
        for _ in range(throttle.FREE_OF_NAME):
            self.sign_in("editor", "wrong", status=401)
        self.sign_in("editor", status=429)
        Failures.objects.update(last_at=timezone.now() - timedelta(seconds=2))
        self.sign_in("editor")
        self.assertEqual(Failures.objects.filter(count__gt=0).count(), 1)

    def test_an_address_that_tries_many_names_is_held_back(self) -> None:
        for at in range(throttle.FREE_OF_ADDRESS):
            self.sign_in(f"name{at}", "wrong", status=401)
        self.sign_in("editor", status=429)

    def test_a_long_wait_has_an_end(self) -> None:
        for _ in range(2):
            self.sign_in("editor", "wrong", status=401)
        Failures.objects.update(count=60)
        self.sign_in("editor", status=429)
        self.assertLessEqual(self.answer["retry_after_s"], throttle.LONGEST_S)


class Hashing(TestCase):
    def test_no_more_are_hashed_at_once_than_the_machine_bears(self) -> None:
        busy, most, all_in = [0], [0], threading.Barrier(AT_ONCE)

        def slow(*_: object) -> str:
            busy[0] += 1
            most[0] = max(most[0], busy[0])
            # Released only once as many are in as may be; a longer wait for more would break it.
            all_in.wait(timeout=10)
            busy[0] -= 1
            return "x"

        with mock.patch.object(Argon2PasswordHasher, "encode", slow), ThreadPoolExecutor(8) as pool:
            done = list(pool.map(lambda _: BoundedArgon2().encode("a", "b"), range(4 * AT_ONCE)))
        self.assertEqual((len(done), most[0]), (4 * AT_ONCE, AT_ONCE))

    def test_who_cannot_be_served_is_told_so(self) -> None:
        with mock.patch.object(hashing, "_LONGEST_WAIT_S", 0.0), ExitStack() as taken:
            for _ in range(AT_ONCE):
                taken.enter_context(hashing._Slot())
            with self.assertRaises(Problem) as refused:
                BoundedArgon2().verify("a", "b")
        self.assertEqual(refused.exception.status_code, 503)


class SecondFactor(Accounts):
    def begin(self) -> tuple[Browser, pyotp.TOTP, list[str]]:
        browser = self.sign_in("tester")
        begun = browser.send("post", "/api/account/second-factor", {"password": PASSWORD}).json()
        self.assertTrue(begun["picture"].startswith("data:image/svg+xml"))
        self.assertIn("issuer=Nomothet", begun["uri"])
        totp = pyotp.TOTP(begun["secret"])
        codes = browser.send("put", "/api/account/second-factor", {"code": totp.now()}).json()["codes"]
        return browser, totp, codes

    def later(self, steps: int) -> Any:
        """Some steps of 30 s later."""
        return mock.patch.object(time, "time", return_value=time.time() + 30 * steps)

    def code(self, totp: pyotp.TOTP) -> str:
        return totp.at(int(time.time()))

    def test_a_code_is_asked_for_once_it_is_confirmed(self) -> None:
        browser, totp, codes = self.begin()
        self.assertEqual(len(codes), second_factor.RECOVERY_CODES)
        self.assertTrue(browser.json("/api/account")["second_factor"])
        self.sign_in("tester", status=401)
        self.assertIs(self.answer["second_factor"], True)
        self.sign_in("tester", "wrong", code=totp.now(), status=401)
        self.assertNotIn("second_factor", self.answer)
        with self.later(3):
            self.sign_in("tester", code=self.code(totp))

    def test_no_code_is_taken_twice(self) -> None:
        _, totp, _ = self.begin()
        self.sign_in("tester", code=totp.now(), status=401)
        with self.later(3):
            code = self.code(totp)
            self.sign_in("tester", code=code)
            self.sign_in("tester", code=code, status=401)

    def test_a_recovery_code_stands_in_once_however_it_is_typed(self) -> None:
        browser, _, codes = self.begin()
        self.sign_in("tester", code=codes[0].upper())
        self.sign_in("tester", code=codes[0], status=401)
        self.sign_in("tester", code=codes[1].replace("-", ""))
        self.assertEqual(browser.json("/api/account")["recovery_codes"], len(codes) - 2)
        fresh = browser.send("post", "/api/account/recovery-codes", {"password": PASSWORD}).json()["codes"]
        self.sign_in("tester", code=codes[2], status=401)
        self.sign_in("tester", code=fresh[0])

    def test_wrong_codes_are_held_back_like_wrong_passwords(self) -> None:
        self.begin()
        for _ in range(throttle.FREE_OF_NAME):
            self.sign_in("tester", code="000000", status=401)
        self.sign_in("tester", code="000000", status=429)

    def test_its_secret_cannot_be_read_from_the_database(self) -> None:
        _, totp, codes = self.begin()
        kept = str(list(User.objects.values())) + str(list(User.objects.get(username="tester").recovery_codes.values()))
        self.assertNotIn(totp.secret, kept)
        self.assertNotIn(codes[0].replace("-", ""), kept)

    def test_it_is_taken_off_with_the_password_or_by_an_admin(self) -> None:
        browser, _, _ = self.begin()
        self.problem(browser.send("delete", "/api/account/second-factor", {"password": "wrong"}), 422)
        self.assertEqual(browser.send("delete", "/api/account/second-factor", {"password": PASSWORD}).status_code, 200)
        self.sign_in("tester")
        self.begin()
        body = {"without_second_factor": True}
        secret = self.admin.send("post", f"{self.person('tester')}/reset", body).json()["secret"]
        Browser().send("put", "/api/welcome", {"secret": secret, "password": NEW})
        self.sign_in("tester", NEW)

    def test_one_that_was_not_confirmed_is_not_asked_for(self) -> None:
        browser = self.sign_in("tester")
        browser.send("post", "/api/account/second-factor", {"password": PASSWORD})
        self.problem(browser.send("put", "/api/account/second-factor", {"code": "000000"}), 422)
        self.sign_in("tester")

    def test_with_the_secret_of_another_installation_a_code_is_wrong_and_nothing_fails(self) -> None:
        _, totp, codes = self.begin()
        with override_settings(SECRET_KEY="another"), self.later(3):
            self.sign_in("tester", code=self.code(totp), status=401)
            self.sign_in("tester", code=codes[0])
