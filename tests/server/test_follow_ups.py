"""Follow-ups: noted, due, seen to by passes or a review, ended, and read by calendars."""

from datetime import date, timedelta
from typing import Any

from django.utils import timezone
from icalendar import Calendar

from nomothet.server.docket.models import Entry
from nomothet.server.follow_ups.models import FeedAddress, FollowUp
from nomothet.server.history.models import Event
from nomothet.server.people.models import User
from nomothet.server.records.models import Record
from nomothet.server.reviews.models import Review
from nomothet.server.systems.models import System
from tests.server.base import Browser, SceneTest

NEVER = "x" * 43


class FollowUpTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.tester = Browser("tester")

    def note(self, status: int = 201, **fields: Any) -> dict[str, Any]:
        body = {"what": "Measure again with the new driver", "review": self.scene.review.pk, **fields}
        answer = self.tester.send("post", "/api/follow-ups", body)
        self.assertEqual(answer.status_code, status, answer.content)
        return dict(answer.json())

    def listed(self, query: str = "") -> list[dict[str, Any]]:
        return list(Browser("reader").json(f"/api/follow-ups{query}"))


class Noted(FollowUpTest):
    def test_what_it_says_comes_back(self) -> None:
        told = {
            "why": "said to cost nothing",
            "waits_for": "driver",
            "waits_words": "31.6",
            "due": "2027-01-05",
        }
        person = User.objects.get(username="editor")
        made = self.note(**told, person=person.pk, tests=[self.scene.tests[0].pk])
        (shown,) = self.listed()
        self.assertEqual({key: shown[key] for key in told}, told)
        self.assertEqual((shown["person_name"], shown["question"]), (person.display_name, self.scene.review.question))
        self.assertEqual((shown["id"], shown["is_due"], shown["state"]), (made["id"], False, "open"))

    def test_one_about_a_record_is_of_its_review_and_names_the_edition(self) -> None:
        self.fill(0, [60.0])
        Browser("editor").send("post", f"{self.review_path}/records", {})
        record = Record.objects.get()
        self.note(review=None, record=record.slug)
        (shown,) = self.listed()
        self.assertEqual((shown["record"], shown["edition"], shown["review"]), (record.slug, 1, record.review_id))
        self.note(400, review=None, record="no-such")

    def test_it_says_something_and_is_about_something(self) -> None:
        self.assertIn("what", self.note(400, what="  ")["errors"])
        self.assertEqual(self.note(422, review=None)["field"], "review")
        self.assertEqual(self.note(422, tests=[10_000])["field"], "tests")
        self.assertEqual(FollowUp.objects.count(), 0)

    def test_what_is_due_comes_first(self) -> None:
        today = timezone.localdate()
        for what, due in (("later", today + timedelta(days=9)), ("sooner", today + timedelta(days=2)), ("now", today)):
            self.note(what=what, due=due.isoformat())
        self.note(what="some day")
        self.assertEqual([one["what"] for one in self.listed()], ["now", "sooner", "later", "some day"])
        self.assertEqual([one["is_due"] for one in self.listed()], [True, False, False, False])

    def test_what_it_waited_for_makes_it_due(self) -> None:
        path = f"/api/follow-ups/{self.note(waits_for='part', waits_words='a card')['id']}/here"
        self.assertTrue(self.tester.send("put", path).json()["is_due"])
        self.assertFalse(self.tester.send("delete", path).json()["is_due"])

    def test_they_are_found_by_review_and_by_system(self) -> None:
        system = System.objects.get(key="wren")
        self.note(what="of the review")
        self.note(what="of the machine", review=None, system=system.pk)
        self.assertEqual([o["what"] for o in self.listed(f"?review={self.scene.review.pk}")], ["of the review"])
        self.assertEqual([o["what"] for o in self.listed(f"?system={system.pk}")], ["of the machine"])
        self.assertEqual(len(self.listed("?review=99999999999999999999")), 2)

    def test_two_who_edit_one_are_told_apart(self) -> None:
        made = self.note()
        path, tag = f"/api/follow-ups/{made['id']}", {"If-Match": f'"v{made["version"]}"'}
        self.problem(self.tester.send("patch", path, {"why": "mine"}), 428)
        self.assertEqual(self.tester.send("patch", path, {"why": "theirs"}, **tag).status_code, 200)
        told = self.problem(self.tester.send("patch", path, {"why": "mine"}, **tag), 412)
        self.assertEqual(told["current"]["why"], "theirs")

    def test_it_is_ended_with_what_came_of_it_and_taken_up_again(self) -> None:
        path = f"/api/follow-ups/{self.note()['id']}"
        self.assertEqual(
            self.problem(self.tester.send("put", f"{path}/state", {"state": "dropped"}), 422)["field"], "outcome"
        )
        ended = self.tester.send("put", f"{path}/state", {"state": "done", "outcome": "It costs nothing."}).json()
        name = User.objects.get(username="tester").display_name
        self.assertEqual((ended["ended_by"], ended["outcome"]), (name, "It costs nothing."))
        self.assertEqual((self.listed(), len(self.listed("?ended=true"))), ([], 1))
        self.problem(self.tester.send("put", f"{path}/here"), 409)
        self.problem(self.tester.send("patch", path, {"why": "x"}, **{"If-Match": "*"}), 409)
        self.assertEqual(self.tester.send("put", f"{path}/state", {"state": "open"}).json()["outcome"], "")
        acts = list(Event.objects.filter(kind="follow_up").order_by("pk").values_list("act", flat=True))
        self.assertEqual(acts, ["noted", "ended", "taken up again"])


class SeenTo(FollowUpTest):
    def test_one_act_owes_the_passes_that_it_wants(self) -> None:
        one = self.note(tests=[self.scene.tests[0].pk])
        answer = self.tester.send("post", f"/api/follow-ups/{one['id']}/passes", {"passes": 2}).json()
        columns = self.scene.review.columns.count()
        self.assertEqual(answer["passes"], 2 * columns)
        self.assertEqual(
            sorted(Entry.objects.values_list("test", "column")),
            sorted((self.scene.tests[0].pk, column.pk) for column in self.scene.columns for _ in range(2)),
        )

    def test_one_act_makes_a_review_with_its_tests_and_leaves_the_old_one(self) -> None:
        one = self.note(tests=[self.scene.tests[1].pk])
        made = Browser("editor").send("post", f"/api/follow-ups/{one['id']}/review").json()
        copy = Review.objects.get(pk=made["review"])
        self.assertEqual([test.workload_id for test in copy.tests.all()], [self.scene.tests[1].workload_id])
        self.assertEqual(copy.columns.count(), self.scene.review.columns.count())
        self.assertGreater(self.scene.review.tests.count(), 1)

    def test_one_about_a_system_has_no_passes_of_its_own(self) -> None:
        one = self.note(review=None, system=System.objects.get(key="wren").pk)
        self.problem(self.tester.send("post", f"/api/follow-ups/{one['id']}/passes", {"passes": 1}), 409)


class Calendars(FollowUpTest):
    def address(self) -> str:
        return str(self.tester.send("post", "/api/account/calendar").json()["secret"])

    def test_a_calendar_reads_days_and_things_to_do(self) -> None:
        self.note(what="Paste; dry,\nso again", why="ü" * 90, due="2027-01-05")
        self.note(what="Ask the shop", waits_for="person", waits_words="the shop")
        answer = Browser().get(f"/follow-ups/{self.address()}.ics")
        self.assertTrue(answer.headers["Content-Type"].startswith("text/calendar"))
        self.assertEqual(answer.headers["Cache-Control"], "no-store")
        # RFC 5545, section 3.1: lines end with CRLF and have 75 octets at most.
        lines = answer.content.split(b"\r\n")
        self.assertLessEqual(max(len(line) for line in lines), 75)
        found = Calendar.from_ical(answer.content)
        (event,) = found.walk("VEVENT")
        self.assertEqual(event["SUMMARY"], "Paste; dry,\nso again")
        self.assertEqual((event["DTSTART"].dt, event["DTEND"].dt), (date(2027, 1, 5), date(2027, 1, 6)))
        self.assertEqual(len(found.walk("VTODO")), 2)

    def test_a_feed_reader_reads_them_too(self) -> None:
        secret = self.address()
        self.assertIn(b"<updated>", Browser().get(f"/follow-ups/{secret}.atom").content)
        self.note(what="Ask the shop")
        self.assertIn(b"Ask the shop", Browser().get(f"/follow-ups/{secret}.atom").content)

    def test_only_who_knows_the_address_of_somebody_who_may_sign_in_is_answered(self) -> None:
        secret = self.address()
        self.assertNotIn(secret, str(list(FeedAddress.objects.values())))
        for path, status in ((f"/follow-ups/{secret}.ics", 200), (f"/follow-ups/{NEVER}.ics", 404)):
            self.assertEqual(Browser().get(path).status_code, status)
        again = self.address()
        self.assertEqual(Browser().get(f"/follow-ups/{secret}.ics").status_code, 404)
        User.objects.filter(username="tester").update(is_active=False)
        self.assertEqual(Browser().get(f"/follow-ups/{again}.ics").status_code, 404)

    def test_an_address_is_given_up(self) -> None:
        secret = self.address()
        self.assertEqual(self.tester.send("delete", "/api/account/calendar").status_code, 204)
        self.assertEqual(Browser().get(f"/follow-ups/{secret}.atom").status_code, 404)
        self.assertIsNone(self.tester.json("/api/account/calendar")["made_at"])
