"""Signing in, roles on every endpoint, CSRF, headers and the shape of errors."""

import uuid

from django.test import Client
from django.urls import URLPattern, get_resolver

from nomothet.server.people.models import User
from tests.server.base import PASSWORD, BenchClient, Browser, SceneTest

PUBLIC = {"health", "api/schema", "api/session", "api/feed", "api/welcome", "api/beginning"}


class SigningIn(SceneTest):
    def test_the_session_says_who_one_is_and_what_one_may(self) -> None:
        browser = Browser()
        answer = browser.send("post", "/api/session", {"username": "tester", "password": PASSWORD})
        self.assertEqual(answer.status_code, 200, answer.content)
        session = browser.json("/api/session")
        self.assertEqual((session["display_name"], session["role"]), ("Tester", "tester"))
        self.assertIn("set_aside", session["may"])
        self.assertNotIn("publish", session["may"])

    def test_a_wrong_password_says_no_more_than_needed(self) -> None:
        for username in ("editor", "nobody"):
            answer = Browser().send("post", "/api/session", {"username": username, "password": "wrong"})
            self.assertIn("Wrong name or password", self.problem(answer, 401)["detail"])

    def test_signing_out_ends_the_session(self) -> None:
        browser = Browser("reader")
        self.assertEqual(browser.send("delete", "/api/session").status_code, 204)
        self.problem(browser.get("/api/reviews"), 401)

    def test_passwords_are_hashed_with_argon2(self) -> None:
        self.assertTrue(User.objects.get(username="editor").password.startswith("argon2$argon2id$"))

    def test_signing_in_needs_the_token_against_forgery(self) -> None:
        client = Client(enforce_csrf_checks=True)
        body = {"username": "editor", "password": PASSWORD}
        self.assertEqual(client.post("/api/session", body, content_type="application/json").status_code, 403)

    def test_writing_needs_the_token_against_forgery(self) -> None:
        browser = Browser("editor")
        answer = browser.client.patch(self.review_path, {"audience": "x"}, content_type="application/json")
        self.problem(answer, 403)


class Roles(SceneTest):
    def acts(self) -> list[tuple[str, str, str, object, str]]:
        """Every write that a person can make: method, path, lowest role, body, ETag."""
        scene = self.scene
        pass_id = self.fill(0, [60.0])[0]
        entry = scene.owe()[0]
        asked = {"tests": [scene.tests[0].pk], "columns": [scene.columns[0].pk], "passes": 1}
        return [
            ("post", f"{self.review_path}/docket", "tester", asked, ""),
            ("delete", f"/api/docket/{entry.pk}", "tester", None, ""),
            ("put", f"/api/passes/{pass_id}/set-aside", "tester", {"reason": "odd"}, ""),
            ("delete", f"/api/passes/{pass_id}/set-aside", "tester", None, ""),
            ("patch", self.review_path, "editor", {"audience": "v"}, '"v1"'),
            ("put", f"{self.review_path}/baseline/{scene.columns[1].pk}", "editor", None, ""),
            ("post", f"{self.review_path}/records", "editor", {}, ""),
            ("post", "/api/systems", "editor", {"key": "heron", "name": "Heron"}, ""),
            ("post", f"/api/systems/{scene.system.pk}/bench-token", "admin", None, ""),
        ]

    def test_every_write_needs_its_role_and_no_more(self) -> None:
        order = ["reader", "tester", "editor", "admin"]
        browsers = {role: Browser(role) for role in order}
        for method, path, lowest, body, tag in self.acts():
            headers = {"If-Match": tag} if tag else {}
            with self.subTest(path=path, method=method):
                self.problem(Browser().send(method, path, body, **headers), 401)
                for role in order[: order.index(lowest)]:
                    problem = self.problem(browsers[role].send(method, path, body, **headers), 403)
                    self.assertIn(f"the role {lowest} is needed", problem["detail"])
                self.assertLess(browsers[lowest].send(method, path, body, **headers).status_code, 300)

    def test_files_need_a_tester(self) -> None:
        path = f"{self.cell_path()}/frames/{uuid.uuid4()}"
        self.problem(Browser("reader").drop_file(path, b"frame_ms\n16\n17\n"), 403)
        self.assertEqual(Browser("tester").drop_file(path, b"frame_ms\n16\n17\n").status_code, 201)

    def test_nothing_but_the_public_addresses_answers_a_stranger(self) -> None:
        stranger = Client()
        sample = {"slug": "x", "name": "frames"} | dict.fromkeys(("pass_id", "other", "batch", "job"), uuid.uuid4())
        checked = 0
        for pattern in get_resolver().url_patterns:
            if not isinstance(pattern, URLPattern) or not hasattr(pattern.pattern, "converters"):
                continue
            route = str(pattern.pattern)
            if route in PUBLIC or route.startswith("api/records/") or not route.startswith("api/"):
                continue
            numbers = {name: sample.get(name, 1) for name in pattern.pattern.converters}
            path = "/" + route
            for name, value in numbers.items():
                kind = type(pattern.pattern.converters[name]).__name__.removesuffix("Converter").lower()
                path = path.replace(f"<{kind}:{name}>", str(value))
            for method in ("get", "post", "put", "patch", "delete"):
                with self.subTest(method=method, path=path):
                    self.assertIn(getattr(stranger, method)(path).status_code, (401, 405))
            checked += 1
        self.assertGreater(checked, 15)

    def test_a_bench_token_opens_no_door_for_people_and_the_other_way_round(self) -> None:
        bench = Client(headers={"Authorization": f"Bench {self.scene.token}"})
        self.assertEqual(bench.get("/api/reviews").status_code, 401)
        self.assertEqual(Browser("admin").send("post", "/api/bench/hello", {"inventory": {}}).status_code, 401)


class Tokens(SceneTest):
    def test_a_token_is_shown_once_and_stored_hashed(self) -> None:
        answer = Browser("admin").send("post", f"/api/systems/{self.scene.system.pk}/bench-token")
        token = answer.json()["token"]
        self.scene.bench.refresh_from_db()
        self.assertNotIn(token, str(vars(self.scene.bench)))
        self.assertNotIn(token, Browser("admin").get("/api/systems").content.decode())
        self.assertEqual(BenchClient(token).send("post", "/hello", {"inventory": {}}).status_code, 200)

    def test_a_new_token_ends_the_one_before(self) -> None:
        Browser("admin").send("post", f"/api/systems/{self.scene.system.pk}/bench-token")
        self.problem(self.bench.send("post", "/hello", {"inventory": {}}), 401)

    def test_a_system_needs_a_key_of_its_own(self) -> None:
        answer = Browser("admin").send("post", "/api/systems", {"key": "wren", "name": "Another"})
        self.assertIn("key", self.problem(answer, 400)["errors"])


class Surroundings(SceneTest):
    def test_pages_carry_a_strict_policy_and_a_nonce_of_their_own(self) -> None:
        policies = [Client().get("/reviews").headers["Content-Security-Policy"] for _ in range(2)]
        self.assertNotEqual(*policies)
        self.assertIn("script-src 'self';", policies[0])
        self.assertNotIn("unsafe", policies[0])
        headers = Client().get("/api/session").headers
        self.assertEqual(headers["X-Content-Type-Options"], "nosniff")
        self.assertIn("frame-ancestors 'none'", headers["Content-Security-Policy"])

    def test_unknown_addresses_of_the_api_are_problems(self) -> None:
        self.problem(Browser("reader").get("/api/unheard-of"), 404)
        self.problem(Browser("reader").get("/api/reviews/999"), 404)

    def test_the_document_describes_every_address(self) -> None:
        document = Client().get("/api/schema").content.decode()
        for path in ("/api/reviews/{review}/matrix", "/api/bench/passes/{pass_id}", "/api/records/{slug}"):
            self.assertIn(path, document)
