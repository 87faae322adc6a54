"""What screens and benches ask again and again is found by an index, however many passes there are."""

import re

from django.db import connection
from django.test import override_settings
from django.test.utils import CaptureQueriesContext

from nomothet.server.history.models import Event
from nomothet.server.people.models import SecurityEvent
from nomothet.server.reviews.models import Review
from nomothet.server.standings.keeping import keep, stale_tests
from nomothet.server.systems.models import System
from tests.server.base import BenchClient, Browser
from tests.server.emptied import EmptiedTest
from tests.server.large_team import Size, Team, grow, team

# Tables that grow with every pass, act or visit.
_GROWING = {
    "analysis_analysis", "docket_entry", "feed_change", "history_event", "passes_figure", "passes_gap", "passes_mark",
    "passes_pass", "passes_picture", "passes_series", "people_securityevent", "people_visit", "standings_result",
    "talk_comment", "talk_notice",
}  # fmt: skip
# A plan that reads so many rows of one of them reads the table.
_MANY = 300
_SMALL = Size(machines=20, columns=4, tests=5, passes=2, workloads=4, published=1)
_REVIEWS = 20
_VISITS = 30_000
_ASKED = (
    "/api/session",
    "/api/reviews",
    "/api/reviews/{review}",
    "/api/reviews/{review}/matrix",
    "/api/reviews/{review}/docket",
    "/api/reviews/{review}/findings",
    "/api/reviews/{review}/talk",
    "/api/reviews/{review}/measured-before",
    "/api/reviews/{review}/reference-offers",
    "/api/history/review/{review}",
    "/api/systems",
    "/api/systems/{system}",
    "/api/systems/{system}/docket",
    "/api/systems/{system}/book",
    "/api/benches",
    "/api/inbox",
    "/api/follow-ups",
    "/api/security-log",
    "/api/standings",
    "/api/standings/walk-1",
    "/records/feed.atom",
)


@override_settings(PASSWORD_HASHERS=["tests.server.fast_hasher.FastArgon2"])
class Plans(EmptiedTest):
    """Looking at tables for their statistics ends a transaction, so that all of it is one test of one team."""

    made: Team

    def setUp(self) -> None:
        self.made = team(_SMALL)
        grow(self.made, _REVIEWS)
        keep(stale_tests().values_list("pk", flat=True))
        # A few thousand rows are read and sorted whatever index there is.
        SecurityEvent.objects.bulk_create([SecurityEvent(kind="signed_in")] * _VISITS, batch_size=5000)
        Event.objects.bulk_create([Event(kind="review", object_id=9, act="edited")] * _VISITS, batch_size=5000)
        with connection.cursor() as cursor:
            cursor.execute(f"ANALYZE TABLE {', '.join(sorted(_GROWING))}")

    def read_whole(self, queries: list[dict[str, str]]) -> list[str]:
        """Those of some queries that read a growing table from end to end."""
        found = []
        with connection.cursor() as cursor:
            for asked in {one["sql"] for one in queries if one["sql"].startswith("SELECT")}:
                cursor.execute(f"EXPLAIN {asked}")
                heads = [one[0] for one in cursor.description]
                for row in cursor.fetchall():
                    step = dict(zip(heads, row, strict=True))
                    name = _named(asked, step["table"] or "")
                    if name in _GROWING and step["type"] in ("ALL", "index") and int(step["rows"]) > _MANY:
                        found.append(f"{name}, {step['rows']} rows: {asked}")
        return found

    def test_what_screens_and_benches_ask_for(self) -> None:
        about = {"review": Review.objects.get(key="review-1").pk, "system": System.objects.get(key="machine-1").pk}
        browser = Browser("admin")
        for path in _ASKED:
            with self.subTest(path):
                with CaptureQueriesContext(connection) as asked:
                    self.assertEqual(browser.get(path.format(**about)).status_code, 200)
                self.assertEqual(self.read_whole(asked.captured_queries), [])
        with self.subTest("a bench"):
            self.made.scene.owe()
            with CaptureQueriesContext(connection) as asked:
                BenchClient(self.made.scene.token).deliver()
            self.assertEqual(self.read_whole(asked.captured_queries), [])
        with self.subTest("what has no index is seen"):
            self.assertEqual(len(self.read_whole([{"sql": "SELECT * FROM passes_figure WHERE value > 3"}])), 1)


def _named(asked: str, alias: str) -> str:
    """What an alias of a query stands for."""
    found = re.search(rf"`(\w+)`\s+(?:AS\s+)?`?{re.escape(alias)}`?\b", asked)
    return found.group(1) if found and found.group(1) != alias and "." not in found.group(0) else alias
