"""Whatever is sent to the addresses of setting up is taken or refused in words, and never breaks the server."""

from unittest import mock

from django.db import InterfaceError, OperationalError
from django.http import HttpResponse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase

from tests.server.base import Browser, SceneTest
from tests.server.setting_up import SettingUp

LEAF = st.one_of(
    st.none(), st.booleans(), st.integers(-(10**12), 10**12), st.floats(allow_nan=False), st.text(max_size=12)
)
FIELDS = st.sampled_from(
    "name kind attributes key value source settings fitted base slot_map slots checks words mode seed by_hand text "
    "store aspects levels factors choices workload order configuration observed part module amount on sample rule "
    "expression question version memory_mts channel fill speeds metrics steps comparable rules".split()
)
BODY = st.recursive(
    LEAF, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(FIELDS, inner, max_size=4), max_leaves=8
)


class OddBodies(HypothesisTestCase, SettingUp):
    def addresses(self) -> list[tuple[str, str]]:
        review, scene = f"/api/reviews/{self.scene.review.pk}", self.scene
        part, heron, other = self.small.pk, self.heron.pk, self.other.pk
        first, test = scene.columns[0].pk, scene.tests[0].pk
        return [
            ("post", "/api/parts"), ("patch", f"/api/parts/{part}"), ("post", f"/api/parts/{part}/prices"),
            ("post", "/api/parts/import"), ("post", "/api/systems"), ("patch", f"/api/systems/{heron}"),
            ("post", f"/api/systems/{heron}/populate"), ("post", f"/api/systems/{heron}/configurations"),
            ("put", f"/api/systems/{heron}/docket"), ("post", f"/api/systems/{heron}/releases"),
            ("patch", f"/api/configurations/{other}"), ("post", f"/api/configurations/{other}/observations"),
            ("post", "/api/workloads"), ("patch", f"/api/workloads/{scene.scene.pk}"),
            ("post", "/api/workloads/import"),
            ("post", "/api/workloads/try-rule"), ("post", f"/api/workloads/{scene.scene.pk}/editions"),
            ("post", "/api/reviews"), ("patch", review), ("post", f"{review}/columns"), ("put", f"{review}/columns"),
            ("patch", f"{review}/columns/{first}"), ("post", f"{review}/tests"), ("patch", f"{review}/tests/{test}"),
            ("post", f"{review}/factors"), ("put", f"{review}/factors"), ("put", f"{review}/caveats"),
            ("post", f"{review}/equal"), ("post", f"{review}/paste"), ("post", f"{review}/docket"),
        ]  # fmt: skip

    @settings(max_examples=25, suppress_health_check=list(HealthCheck))
    @given(BODY)
    def test_no_body_breaks_the_server(self, body: object) -> None:
        admin = Browser("admin")
        for method, path in self.addresses():
            answer = admin.send(method, path, body, **{"If-Match": "*"})
            self.assertLess(answer.status_code, 500, (method, path, body, answer.content))
            if answer.status_code >= 400:
                self.assertIn("detail", answer.json())

    def test_near_misses_are_refused_in_words(self) -> None:
        admin, heron = Browser("admin"), self.heron.pk
        many = {"kind": "display", "name": "x", "attributes": [{"key": "a", "value": {}, "source": "label"}]}
        path_rule = {"kind": "json", "expression": "$" * 400, "metric": "m"}
        wide_rule = {"kind": "text", "expression": "(?P<a>a{999}{999})"}
        for method, path, body in (
            ("post", f"/api/systems/{heron}/configurations", {"name": "x", "settings": {"memory_mts": [1]}}),
            ("post", f"/api/systems/{heron}/configurations", {"name": "x", "settings": {"memory_mts": {"a": 1}}}),
            ("post", f"/api/systems/{heron}/configurations", {"name": "x", "settings": {"": 1}}),
            ("post", f"/api/systems/{heron}/configurations", {"name": "x", "fitted": {"slot A2": {"part": 10**18}}}),
            ("post", "/api/parts", many),
            ("put", f"/api/systems/{heron}/docket", {"mode": "shuffled", "seed": 2**40}),
            ("post", "/api/workloads/try-rule", {"rule": path_rule, "sample": "{}"}),
            ("post", "/api/workloads/try-rule", {"rule": wide_rule, "sample": "a"}),
            ("post", "/api/parts/import", {"text": "[" * 5000}),
        ):  # fmt: skip
            with self.subTest(path=path, body=str(body)[:80]):
                answer = admin.send(method, path, body)
                self.assertIn(answer.status_code, (400, 422), answer.content[:300])


class Failing(SceneTest):
    """What goes wrong below the application is told as everything else."""

    def seen(self, **failing: object) -> HttpResponse:
        with mock.patch("nomothet.server.talk.commands.mark_read", **failing):
            browser = Browser("reader")
            browser.client.raise_request_exception = False
            return browser.send("put", f"{self.review_path}/talk/seen", {"upto": 1})

    def test_numbers_that_no_column_holds_are_refused(self) -> None:
        for number in (2**63, 10**30):
            with self.subTest(number=number):
                answer = Browser("reader").send("put", f"{self.review_path}/talk/seen", {"upto": number})
                self.assertIn(answer.status_code, (400, 404, 422), answer.content)

    def test_a_database_that_is_away_is_said_to_be_and_is_no_failure_of_what_was_sent(self) -> None:
        for error in (
            OperationalError(2002, "Can't connect to server on '127.0.0.1' (115)"),
            OperationalError(2013, "Lost connection to server during query"),
            InterfaceError(0, ""),
        ):
            with self.subTest(error=error):
                self.assertIn("comes back by itself", self.problem(self.seen(side_effect=error), 503)["detail"])
        waited_for_a_lock = OperationalError(1205, "Lock wait timeout exceeded")
        self.problem(self.seen(side_effect=waited_for_a_lock), 500)

    def test_a_database_that_is_away_before_anybody_is_known_is_told_the_same_way(self) -> None:
        browser = Browser("reader")
        browser.client.raise_request_exception = False
        away = OperationalError(2006, "Server has gone away")
        with mock.patch("django.contrib.sessions.backends.db.SessionStore.load", side_effect=away):
            self.problem(browser.get(f"{self.review_path}/talk"), 503)

    def test_a_full_disk_is_said_to_be_one(self) -> None:
        for error in (
            OperationalError(1114, "The table 'talk_seen' is full"),
            OperationalError(1021, "Disk full (/var/tmp); waiting for someone to free some space"),
            OSError(28, "No space left on device"),
        ):
            with self.subTest(error=error):
                told = self.problem(self.seen(side_effect=error), 507)
                self.assertIn("The disk of the server is full. Nothing was stored", told["detail"])

    def test_what_nobody_has_foreseen_is_a_problem_object_without_a_traceback(self) -> None:
        told = self.problem(self.seen(side_effect=KeyError("inner workings")), 500)
        self.assertNotIn("inner workings", str(told))
