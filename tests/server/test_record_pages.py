"""The public page of a record: read signed out and without a program, frozen, corrected, withdrawn, embedded."""

import json
import re
import uuid
from html.parser import HTMLParser
from xml.etree import ElementTree

from django.http import HttpResponse

from nomothet.server.passes.models import Pass
from nomothet.server.records.models import Record
from nomothet.server.systems.models import Configuration
from nomothet.server.workloads.models import MetricNote
from tests.server.base import Browser
from tests.server.test_verdicts import VerdictTest

ATOM = "{http://www.w3.org/2005/Atom}"
SVG = "{http://www.w3.org/2000/svg}"
HOSTILE = '<script>alert(1)</script> & "quotes"'


class Balanced(HTMLParser):
    """Whether every element that is opened is closed."""

    _EMPTY = {"meta", "link", "img", "input", "br"}

    def __init__(self) -> None:
        super().__init__()
        self.open: list[str] = []
        self.wrong: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag not in self._EMPTY:
            self.open.append(tag)

    def handle_endtag(self, tag: str) -> None:
        if not self.open or self.open.pop() != tag:
            self.wrong.append(tag)


class RecordTest(VerdictTest):
    def publish(self, note: str = "") -> str:
        answer = self.editor.send("post", f"{self.review_path}/records", {"change_note": note})
        self.assertEqual(answer.status_code, 201, answer.content)
        slug: str = answer.json()["slug"]
        return slug

    def page(self, slug: str, query: str = "") -> HttpResponse:
        return Browser().get(f"/records/{slug}{query}")

    def text(self, slug: str, query: str = "") -> str:
        answer = self.page(slug, query)
        self.assertEqual(answer.status_code, 200)
        return answer.content.decode()


class Page(RecordTest):
    def test_the_answer_and_the_advice_are_read_first_and_signed_out(self) -> None:
        column = self.scene.columns[1].pk
        self.write(
            "20 W is [1 amount] slower [1].", "20 W costs a tenth.", judged=[{"column": column, "call": "advised"}]
        )
        text = self.text(self.publish())
        amount = self.found["told"].lstrip("−").replace(" %", "\u00a0%")
        for words in ("20 W costs a tenth.", "For the dome", f"20\u00a0W is {amount} slower", 'href="#finding-1"'):
            with self.subTest(words):
                self.assertIn(words, text)
        self.assertLess(text.index("20 W costs a tenth."), text.index("All results"))

    def test_it_is_well_formed_and_says_what_it_is(self) -> None:
        self.write("20 W is quiet.", "20 W is quiet.")
        text = self.text(self.publish())
        parser = Balanced()
        parser.feed(text)
        self.assertEqual((parser.open, parser.wrong), ([], []))
        self.assertIn('<meta name="description" content="20 W is quiet.">', text)
        data = json.loads(re.search(r'<script type="application/ld\+json">(.*?)</script>', text, re.S)[1])  # type: ignore[index]
        self.assertEqual((data["@type"], data["name"]), ("Dataset", self.scene.review.question))

    def test_nothing_that_somebody_wrote_is_taken_for_markup(self) -> None:
        version = self.editor.json(self.review_path)["version"]
        changes = {"question": HOSTILE, "constant": HOSTILE, "skill_note": HOSTILE, "disclosure": HOSTILE}
        self.editor.send("patch", self.review_path, changes, **{"If-Match": f'"v{version}"'})
        self.write(HOSTILE, HOSTILE, name=HOSTILE)
        slug = self.publish()
        for text in (self.text(slug), Browser().get(f"/records/{slug}/page.html").content.decode()):
            self.assertNotIn("<script>alert", text)
            self.assertIn("&lt;script&gt;alert(1)", text)

    def test_readers_choose_baseline_metric_and_order_and_odd_wishes_do_no_harm(self) -> None:
        slug = self.publish()
        other = self.scene.columns[1].pk
        self.assertIn("+11.", self.text(slug, f"?baseline={other}"))
        table = self.text(slug, "?find=kelp").split('<table class="results">')[1].split("</table>")[0]
        self.assertIn("kelp tunnel", table)
        self.assertNotIn("one thread", table)
        self.assertIn("1 of 2 tests shown", self.text(slug, "?find=kelp"))
        self.assertIn("No result says this", self.text(slug, "?find=zzz"))
        for query in ("?baseline=x", "?baseline=999", "?metric=%00", "?sort=-1", "?find=" + "a" * 500, "?every=2"):
            with self.subTest(query):
                self.assertEqual(self.page(slug, query).status_code, 200)

    def test_one_file_holds_everything_and_asks_nothing_of_the_server(self) -> None:
        slug = self.publish()
        answer = Browser().get(f"/records/{slug}/page.html")
        text = answer.content.decode()
        self.assertIn("attachment", answer.headers["Content-Disposition"])
        self.assertEqual(re.findall(r'(?:src|href)="/(?!/)', text), [])
        self.assertNotIn("url(/assets", text)

    def test_a_review_that_is_not_published_has_no_public_address(self) -> None:
        self.assertEqual(Browser().get(f"/records/{self.scene.review.key}").status_code, 404)
        self.assertEqual(Browser().get(f"{self.review_path}/verdict").status_code, 401)
        self.assertEqual(Browser().get(f"{self.review_path}/findings").status_code, 401)

    def test_it_is_small(self) -> None:
        import gzip

        text = self.text(self.publish())
        self.assertLess(len(gzip.compress(text.encode())), 60_000)


class Frozen(RecordTest):
    def served(self, slug: str) -> dict[str, bytes]:
        """Every byte that an edition serves, without what is new at each reading."""
        addresses = [f"/records/{slug}", f"/records/{slug}/page.html", f"/records/{slug}/findings/1.svg"]
        addresses += [f"/records/{slug}/picture.png", f"/api/records/{slug}"]
        found = {one: Browser().get(one).content for one in addresses}
        for kind in ("figures", "comparisons"):
            answer = Browser().get(f"/api/records/{slug}/{kind}.csv")
            found[kind] = b"".join(answer.streaming_content)  # type: ignore[attr-defined]
        changing = (rb'nonce="[^"]+"', rb'name="stamp" value="[^"]+"')
        for pattern in changing:
            found = {key: re.sub(pattern, b"", value) for key, value in found.items()}
        return found

    def test_whatever_is_changed_in_a_review_an_edition_serves_the_same_bytes(self) -> None:
        self.write("20 W is [1 amount] slower [1].", "20 W costs a tenth.")
        slug = self.publish()
        before = self.served(slug)
        column, test = self.scene.columns[1], self.scene.tests[0]
        version = self.editor.json(self.review_path)["version"]
        self.editor.send(
            "patch",
            self.review_path,
            {"question": "Another?", "margin": 0.2, "constant": "nothing", "expectation": "x"},
            **{"If-Match": f'"v{version}"'},
        )
        self.write("Something else [1].", "Another answer.", name="others")
        one = Pass.objects.filter(test=test, column=column).first()
        assert one is not None
        Browser("tester").send("put", f"/api/passes/{one.pk}/set-aside", {"reason": "doubt"})
        self.fill(1, [90.0], seed=30)
        self.editor.send("put", f"{self.review_path}/baseline/{column.pk}")
        self.editor.send("delete", f"/api/pins/{self.scene.review.pins.get().pk}")
        column.label = "renamed"
        column.save()
        self.scene.scene.name = "Renamed"
        self.scene.scene.save()
        self.scene.system.name = "Renamed"
        self.scene.system.save()
        for user in self.scene.people.values():
            user.display_name = f"{user.display_name} Renamed"
            user.save()
        for use in Configuration.objects.filter(system=self.scene.system):
            use.name, use.settings = f"Renamed {use.pk}", {"power_limit_w": 1}
            use.save()
        MetricNote.objects.create(metric="average_fps", words="Other words.", by=self.scene.people["editor"])
        after = self.served(slug)
        for key, value in before.items():
            with self.subTest(key):
                self.assertEqual(after[key], value)


class Editions(RecordTest):
    def test_a_request_that_is_sent_twice_publishes_once(self) -> None:
        self.write("20 W is quiet.", "20 W is quiet.")
        body = {"change_note": "", "request": str(uuid.uuid4())}
        slugs = {self.editor.send("post", f"{self.review_path}/records", body).json()["slug"] for _ in range(2)}
        self.assertEqual((len(slugs), Record.objects.count()), (1, 1))
        history = Browser("reader").json(f"/api/history/review/{self.scene.review.pk}")
        self.assertEqual(sum(one["act"] == "published" for one in history), 1)

    def test_a_correction_lists_what_changed_figure_by_figure(self) -> None:
        self.write("20 W is quiet.", "20 W is quiet.")
        first = self.publish()
        self.write("20 W is very quiet.", "20 W is quiet.")
        self.fill(1, [40.0, 40.1, 40.2, 40.0], seed=40)
        second = self.publish("four passes came in")
        changes = Browser().json(f"/api/records/{second}")["content"]["changes"]
        told = {(one["kind"], one["what"]): (one["before"], one["after"]) for one in changes}
        self.assertEqual(told["text", "for the dome"], ("20 W is quiet.", "20 W is very quiet."))
        self.assertEqual(told["passes", "passes added"], ("", "4"))
        figures = [one for one in changes if one["kind"] == "figure" and "average" in one["what"]]
        self.assertEqual(len(figures), 1)
        self.assertIn("behind", figures[0]["after"])
        self.assertIn("There is a newer one", self.text(first))
        self.assertIn("four passes came in", self.text(second))

    def test_a_withdrawn_record_keeps_its_address_and_tells_why_and_nothing_else(self) -> None:
        self.write("A secret sentence.", "The answer.")
        slug = self.publish()
        address = f"/api/records/{slug}/withdrawn"
        self.problem(Browser("tester").send("put", address, {"why": "no"}), 403)
        self.problem(self.editor.send("put", address, {"why": ""}), 400)
        self.assertEqual(self.editor.send("put", address, {"why": "the meter was wrong"}).status_code, 200)
        answer = self.page(slug)
        self.assertEqual(answer.status_code, 410)
        self.assertIn("the meter was wrong", answer.content.decode())
        self.assertNotIn("A secret sentence", answer.content.decode())
        self.problem(Browser().get(f"/api/records/{slug}"), 410)
        for path in ("page.html", "picture.png", "findings/1.svg"):
            with self.subTest(path):
                self.assertEqual(Browser().get(f"/records/{slug}/{path}").status_code, 404)
        self.assertTrue(Record.objects.get(slug=slug).content["verdict"])
        self.problem(self.editor.send("put", address, {"why": "again"}), 409)


class Elsewhere(RecordTest):
    def test_the_chart_of_a_finding_is_a_picture_of_its_own(self) -> None:
        self.write("20 W is slower [1].")
        slug = self.publish()
        answer = Browser().get(f"/records/{slug}/findings/1.svg")
        self.assertEqual(answer.headers["Content-Type"], "image/svg+xml")
        picture = ElementTree.fromstring(answer.content)  # noqa: S314 - our own
        self.assertEqual(picture.tag, f"{SVG}svg")
        self.assertEqual(picture.find(f"{SVG}title").text, self.found["sentence"])  # type: ignore[union-attr]
        self.assertEqual(Browser().get(f"/records/{slug}/findings/99.svg").status_code, 404)

    def test_the_picture_beside_a_shared_address_is_a_png(self) -> None:
        answer = Browser().get(f"/records/{self.publish()}/picture.png")
        self.assertEqual(answer.content[:8], b"\x89PNG\r\n\x1a\n")
        self.assertEqual(answer.headers["Content-Type"], "image/png")

    def feed(self, path: str) -> ElementTree.Element:
        answer = Browser().get(path)
        self.assertTrue(answer.headers["Content-Type"].startswith("application/atom+xml"))
        return ElementTree.fromstring(answer.content)  # noqa: S314 - our own

    def test_new_records_and_corrections_come_by_atom(self) -> None:
        self.write("20 W is quiet.", "20 W is quiet.")
        first = self.publish()
        self.publish("a word")
        feed = self.feed("/records/feed.atom")
        for element in ("id", "title", "updated"):
            self.assertTrue(feed.findtext(f"{ATOM}{element}"), element)
        entries = feed.findall(f"{ATOM}entry")
        self.assertEqual(len(entries), 2)
        for entry in entries:
            for element in ("id", "title", "updated", "summary"):
                self.assertTrue(entry.findtext(f"{ATOM}{element}"), element)
            self.assertEqual(entry.findtext(f"{ATOM}author/{ATOM}name"), "Editor")
        self.assertIn("a word", entries[0].findtext(f"{ATOM}summary") or "")
        self.assertEqual(len({entry.findtext(f"{ATOM}id") for entry in entries}), 2)
        self.assertEqual(len(self.feed(f"/records/{first}/feed.atom").findall(f"{ATOM}entry")), 2)

    def test_a_feed_without_records_is_a_feed(self) -> None:
        feed = self.feed("/records/feed.atom")
        self.assertTrue(feed.findtext(f"{ATOM}updated"))
        self.assertEqual(feed.findall(f"{ATOM}entry"), [])
