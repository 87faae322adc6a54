"""The demo, from its files to its record: the simulated bench runs it by the real protocol, and its story holds."""

import tempfile
from pathlib import Path
from typing import Any

import httpx
from django.test import Client, TestCase, override_settings

from nomothet.bench.agent import Agent
from nomothet.bench.client import ServerClient
from nomothet.bench.simulated.machine import SimulatedMachine
from nomothet.bench.simulated.parameters import read_parameters
from nomothet.bench.spool import Spool
from nomothet.server.analysis.models import AsideRange, Hypothesis
from nomothet.server.demo.load import finish_scenario, load_scenario
from nomothet.server.demo.scenario import Scenario
from nomothet.server.docket.models import Entry
from nomothet.server.matrix.matrix import matrix
from nomothet.server.passes.models import Pass
from nomothet.server.people.models import User
from nomothet.server.records.models import Record
from nomothet.server.reviews.differences import differences
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import plain
from nomothet.server.systems.commands import issue_demo_token
from nomothet.server.systems.models import System

DEMO = Path(__file__).resolve().parents[2] / "demo"


def forward(request: httpx.Request) -> httpx.Response:
    """Hand a bench's request to the server inside the test's own transaction."""
    answer = Client().generic(
        request.method,
        request.url.raw_path.decode(),
        request.content,
        request.headers.get("Content-Type", "application/json"),
        headers={"Authorization": request.headers["Authorization"]},
    )
    assert answer.status_code < 500, answer.content
    return httpx.Response(answer.status_code, content=answer.content)


@override_settings(PASSWORD_HASHERS=["tests.server.fast_hasher.FastArgon2"])
class Demo(TestCase):
    """Everything is run once for all tests of this class."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.scenario = Scenario.read(DEMO)
        cls.sign_ins = {name: f"pass-phrase-of-{name}" for name in cls.scenario.usernames}
        load_scenario(cls.scenario, cls.sign_ins)
        # The story told here is that of the first review; the other ones' passes would only take their time.
        Entry.objects.exclude(column__review__key="dome-power").delete()
        cls.owed = Entry.objects.filter(state="owed", column__review__key="dome-power").count()
        token = issue_demo_token(System.objects.get(key="wren"))
        with tempfile.TemporaryDirectory() as folder:
            client = ServerClient("http://localhost", token, httpx.MockTransport(forward))
            machine = SimulatedMachine(read_parameters(DEMO / "simulated" / "wren.toml"), speed=0)
            Agent(machine, Spool(Path(folder)), client, until_idle=True).run()
        for data in cls.scenario.reviews:
            if data["key"] != "dome-power":
                data["after"], data["reference"] = [], []
        finish_scenario(cls.scenario)
        cls.review = Review.objects.get(key="dome-power")

    def compared(self, test: int, metric: str) -> dict[str, Any]:
        """Verdict and effect of each configuration against 35 W."""
        shape = plain(matrix(self.review))
        tests = list(self.review.tests.values_list("pk", flat=True))
        row = next(row for row in shape["rows"] if (row["test"], row["metric"]) == (tests[test], metric))
        labels = {str(column.pk): column.label for column in self.review.columns.all()}
        return {labels[key]: cell["comparison"] for key, cell in row["cells"].items() if cell["comparison"]}

    def test_every_pass_owed_has_arrived_once(self) -> None:
        self.assertEqual(self.owed, 4 * 4 * 5)
        self.assertEqual(
            Pass.objects.exclude(whole_at=None).filter(test__review=self.review, origin="bench").count(), self.owed
        )
        cells = Pass.objects.filter(test__review=self.review, origin="bench").values_list("test", "column", "number")
        self.assertEqual(len(set(cells)), self.owed)

    def test_the_dome_is_level_at_28_watts_and_gains_in_its_low(self) -> None:
        self.assertEqual(self.compared(2, "average_fps")["28 W"]["verdict"], "level")
        low = self.compared(2, "low_1pct")["28 W"]
        self.assertEqual(low["verdict"], "ahead")
        self.assertGreater(low["low"], 33.3)

    def test_twenty_watts_cost_about_a_tenth(self) -> None:
        for test, metric in ((0, "average_fps"), (2, "average_fps"), (3, "render_s")):
            better = self.compared(test, metric)["20 W"]["better"]
            self.assertLess(better, -7)
            self.assertGreater(better, -16)

    def test_what_the_fifteen_watts_really_were_is_flagged(self) -> None:
        rows = {row.key: row for row in differences(self.review).rows}
        last = self.review.columns.get(label="15 W").pk
        self.assertEqual(rows["observed.power_limit_w"].flagged, [last])
        self.assertEqual(rows["fan_profile"].flagged, [last])
        self.assertEqual(rows["power_limit_w"].kind, "factor")

    def test_one_pass_did_not_start_and_one_is_set_aside(self) -> None:
        totals = plain(matrix(self.review))["totals"]
        self.assertEqual((totals["failed"], totals["set_aside"], totals["owed"]), (1, 1, 0))

    def test_what_the_team_made_of_the_evidence(self) -> None:
        kept = AsideRange.objects.get(owner__test__review=self.review)
        self.assertEqual((kept.start_s, kept.end_s, kept.by.username), (0, 3, "tomas"))
        states = Hypothesis.objects.filter(review=self.review).values_list("status", flat=True)
        self.assertEqual(sorted(states), ["open", "tested"])

    def test_what_held_the_dome_back(self) -> None:
        rows = plain(matrix(self.review))["limits"]
        columns = {column.label: str(column.pk) for column in self.review.columns.all()}
        flight = rows[2]["cells"]
        self.assertEqual(flight[columns["35 W"]]["called"], "graphics")
        self.assertEqual(flight[columns["35 W"]]["drop"]["cause"], "temperature")
        self.assertEqual(flight[columns["20 W"]]["called"], "power")

    def test_the_record_is_public(self) -> None:
        record = Record.objects.order_by("edition").last()
        assert record is not None
        answer = Client().get(f"/api/records/{record.slug}")
        self.assertEqual(answer.status_code, 200)
        self.assertIn("28 W is enough", answer.json()["content"]["verdict"]["answer"])

    def test_everybody_can_sign_in_with_what_is_printed(self) -> None:
        for name, password in self.sign_ins.items():
            self.assertTrue(User.objects.get(username=name).check_password(password))

    def test_a_database_with_people_is_left_alone(self) -> None:
        before = Review.objects.count()
        self.assertFalse(load_scenario(self.scenario, self.sign_ins))
        self.assertEqual(Review.objects.count(), before)

    def test_its_verdict_is_signed_by_two_and_backed_and_was_corrected(self) -> None:
        editions = list(Record.objects.order_by("edition"))
        self.assertEqual([one.edition for one in editions], [1, 2])
        roles = [one["role"] for one in editions[1].content["verdict"]["signatures"]]
        self.assertEqual(roles, ["author", "second reader"])
        first, second = (one.content["verdict"]["checked"] for one in editions)
        self.assertEqual((first.get("contradicted"), first.get("further")), (1, 1))
        self.assertEqual((second.get("contradicted"), second.get("further")), (None, None))
        self.assertGreaterEqual(second["backed"], 4)
        self.assertIn("text", {one["kind"] for one in editions[1].content["changes"]})
