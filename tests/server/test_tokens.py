"""Scripts: personal tokens with their scopes, and the client that uses them."""

import re
import uuid
from pathlib import Path
from typing import Any
from unittest.mock import patch

import httpx
from django.test import Client

import nomothet.client
from nomothet.client import Nomothet, Refused
from nomothet.server.passes.models import Figure
from nomothet.server.people.models import Token
from tests.server.base import Browser, SceneTest

DOCS = Path(__file__).parents[2] / "docs" / "client.md"


class ThroughDjango(httpx.BaseTransport):
    """Carries the requests of a client to the application without a network."""

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        headers = {f"HTTP_{name.upper().replace('-', '_')}": value for name, value in request.headers.items()}
        answer = Client(enforce_csrf_checks=True).generic(
            request.method,
            request.url.raw_path.decode(),
            request.read(),
            content_type=request.headers.get("content-type", "application/json"),
            **headers,  # type: ignore[arg-type]
        )
        content = b"".join(answer.streaming_content) if answer.streaming else answer.content  # type: ignore[attr-defined]
        return httpx.Response(answer.status_code, headers=dict(answer.headers), content=content)


class TokenTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.fill(0, [60.0, 60.2, 59.9])
        self.fill(1, [54.0, 54.1, 53.9])

    def token(self, scope: str = "reading", who: str = "tester") -> str:
        answer = Browser(who).send("post", "/api/tokens", {"name": "script", "scope": scope})
        self.assertEqual(answer.status_code, 201, answer.content)
        secret: str = answer.json()["secret"]
        return secret

    def connected(self, secret: str) -> Nomothet:
        made = Nomothet("http://testserver", secret, transport=ThroughDjango())
        self.addCleanup(made.close)
        return made

    def record(self, client: Nomothet, batch: uuid.UUID | None = None) -> uuid.UUID:
        return client.record(
            "dome-power",
            test=self.scene.tests[1].pk,
            column=self.scene.columns[0].pk,
            metric="one_thread",
            values=[812, 815],
            method="read from output",
            batch=batch,
        )


class Tokens(TokenTest):
    def bearer(self, secret: str, method: str, path: str, body: object = None) -> Any:
        return Client(enforce_csrf_checks=True).generic(
            method, path, "{}" if body is None else str(body), "application/json", HTTP_AUTHORIZATION=f"Bearer {secret}"
        )

    def test_a_secret_is_told_once_and_kept_as_a_digest(self) -> None:
        secret = self.token()
        self.assertNotIn(secret, str(list(Token.objects.values())))
        self.assertEqual(Browser("tester").json("/api/tokens")[0]["secret"], "")
        self.assertEqual(Browser("editor").json("/api/tokens"), [])

    def test_a_token_for_reading_reads_and_changes_nothing(self) -> None:
        secret = self.token()
        self.assertEqual(self.bearer(secret, "GET", self.review_path).status_code, 200)
        for method, path in (
            ("PATCH", self.review_path),
            ("PUT", f"{self.review_path}/typed/{uuid.uuid4()}"),
            ("POST", f"{self.review_path}/talk"),
            ("DELETE", self.review_path),
        ):
            with self.subTest(path=path, method=method):
                self.problem(self.bearer(secret, method, path), 403)
        for method in ("GET", "POST"):
            self.problem(self.bearer(secret, method, "/api/tokens"), 401)

    def test_a_token_for_recording_records_and_does_nothing_else(self) -> None:
        secret = self.token("recording", "editor")
        self.problem(self.bearer(secret, "PATCH", self.review_path), 403)
        self.problem(self.bearer(secret, "POST", f"{self.review_path}/records"), 403)
        self.problem(self.bearer(secret, "PUT", f"{self.review_path}/typed/{uuid.uuid4()}"), 400)

    def test_a_token_does_no_more_than_its_owner_may(self) -> None:
        client = self.connected(self.token("recording", "reader"))
        with self.assertRaises(Refused) as caught:
            self.record(client)
        self.assertEqual(caught.exception.status, 403)
        self.assertFalse(Figure.objects.filter(obtained="typed").exists())

    def test_a_revoked_or_unknown_token_is_refused(self) -> None:
        secret = self.token()
        pk = Token.objects.get().pk
        self.assertEqual(Browser("editor").send("delete", f"/api/tokens/{pk}").status_code, 404)
        self.assertEqual(Browser("tester").send("delete", f"/api/tokens/{pk}").status_code, 204)
        for wrong in (secret, "nmt_guess", ""):
            with self.subTest(wrong):
                self.assertIn(self.bearer(wrong, "GET", self.review_path).status_code, (401, 403))

    def test_a_token_of_somebody_who_has_left_is_refused(self) -> None:
        secret = self.token()
        self.scene.people["tester"].is_active = False
        self.scene.people["tester"].save()
        self.assertEqual(self.bearer(secret, "GET", self.review_path).status_code, 401)

    def test_so_many_tokens_and_no_more(self) -> None:
        for _ in range(20):
            self.token()
        answer = Browser("tester").send("post", "/api/tokens", {"name": "one more", "scope": "reading"})
        self.problem(answer, 409)


class TheClient(TokenTest):
    def test_reviews_figures_cells_passes_and_findings_are_frames(self) -> None:
        client = self.connected(self.token())
        self.assertIn("dome-power", set(client.reviews()["key"]))
        figures = client.figures("dome-power")
        own = figures[(figures["metric"] == "average_fps") & (figures["configuration"] == "20 W")]["value"]
        self.assertEqual([round(value) for value in sorted(own)], [54, 54, 54])
        cells = client.cells("dome-power")
        self.assertIn("behind", set(cells["verdict"]))
        self.assertEqual(len(client.passes("dome-power")), 6)
        self.assertIn("versus", set(client.findings("dome-power")["kind"]))

    def test_a_capture_comes_in_full_precision(self) -> None:
        client = self.connected(self.token())
        listed = client.captures("dome-power", self.scene.tests[0].pk, self.scene.columns[0].pk)
        frames = client.capture(int(listed[listed["kind"] == "frames"]["id"].iloc[0]))
        self.assertEqual(round(1000 / frames["frame_ms"].mean()), 60)

    def test_figures_are_recorded_once_however_often_they_are_sent(self) -> None:
        client = self.connected(self.token("recording"))
        batch = self.record(client)
        self.record(client, batch)
        stored = Figure.objects.filter(metric="one_thread", obtained="typed")
        self.assertEqual(sorted(stored.values_list("value", flat=True)), [812, 815])

    def test_what_the_server_refuses_is_an_error_with_its_words(self) -> None:
        client = self.connected(self.token())
        with self.assertRaisesRegex(Refused, "no review with the key 'nothing'"):
            client.figures("nothing")

    def test_the_examples_of_the_documentation_run(self) -> None:
        examples = re.findall(r"```python\n(.*?)```", DOCS.read_text(encoding="utf-8"), re.S)
        self.assertGreaterEqual(len(examples), 3)
        secret = self.token("recording")
        test, column = self.scene.tests[1].pk, self.scene.columns[0].pk

        def connect(address: str, token: str) -> Nomothet:
            return Nomothet(address, token, transport=ThroughDjango())

        for at, example in enumerate(examples):
            known = {"address": "http://testserver", "token": secret, "test": test, "column": column}
            with self.subTest(at), patch.object(nomothet.client, "Nomothet", connect):
                exec(compile(example, f"example {at}", "exec"), known)  # noqa: S102 - our own documentation


class Exports(TokenTest):
    def text(self, name: str) -> str:
        answer = Browser("reader").get(f"{self.review_path}/export/{name}")
        self.assertEqual(answer.status_code, 200)
        return b"".join(answer.streaming_content).decode()  # type: ignore[attr-defined]

    def test_figures_findings_and_verdict_in_each_form(self) -> None:
        self.assertIn("| Reef Walk 2, kelp tunnel | average |", self.text("figures.md"))
        self.assertIn("average_fps", self.text("figures.csv"))
        self.assertIn("20 W differs from 35 W most", self.text("findings.csv"))
        self.assertIn("## 20 W differs from 35 W most", self.text("findings.md"))
        self.assertIn('"kind":', self.text("findings.json"))
        self.assertIn('"answer"', self.text("verdict.json"))

    def test_signs_of_markdown_are_letters(self) -> None:
        version = Browser("editor").json(self.review_path)["version"]
        changes = {"question": "A | B `c` <d>?"}
        Browser("editor").send("patch", self.review_path, changes, **{"If-Match": f'"v{version}"'})
        self.assertIn(r"A \| B \`c\` \<d\>?", self.text("verdict.md"))

    def test_what_there_is_not_is_told_with_what_there_is(self) -> None:
        self.assertIn(
            "findings.csv", self.problem(Browser("reader").get(f"{self.review_path}/export/verdict.csv"), 404)["detail"]
        )
        self.assertEqual(Browser().get(f"{self.review_path}/export/verdict.md").status_code, 401)
