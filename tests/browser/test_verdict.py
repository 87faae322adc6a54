"""The verdict in the browser: from a finding to a published correction, read signed out, on a phone and in print."""

import re

from playwright.sync_api import FilePayload, expect

from nomothet.server.docket.models import Entry, State
from nomothet.server.findings.models import Pin
from nomothet.server.foreign.checking import check
from nomothet.server.foreign.models import ForeignRecord
from nomothet.server.passes.models import Pass
from nomothet.server.readers.models import Message
from nomothet.server.talk.models import Comment, Notice
from nomothet.server.verdicts.models import Verdict
from tests.browser.base import BrowserTest
from tests.server.base import Browser, steady


class VerdictSheet(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        for column, rate in ((0, 60.0), (1, 54.0)):
            self.scene.owe(column=column, count=3)
            for seed in range(3):
                self.bench.deliver(steady(rate, seed=seed))
        self.path = f"/reviews/{self.scene.review.pk}/verdict"

    def pin(self) -> None:
        editor = Browser("editor")
        found = editor.json(f"/api{self.path.removesuffix('/verdict')}/findings")["findings"]
        key = next(one["key"] for one in found if one["kind"] == "versus")
        editor.send("post", f"/api{self.path.removesuffix('/verdict')}/pins", {"key": key})

    def test_from_a_finding_to_a_published_correction(self) -> None:
        self.sign_in("editor", self.path)
        page = self.page

        def write() -> None:
            page.get_by_role("button", name="Write the verdict").click()
            page.get_by_label("For whom, or for what").fill("the touring dome")
            page.get_by_label("What is said of 20 W").select_option("not advised")
            text = page.get_by_role("combobox", name="Text")
            text.press_sequentially("20 W is 30 % slower than 35 W [differs most")
            offered = page.get_by_role("listbox", name="Findings")
            expect(offered.get_by_role("option").first).to_contain_text("differs from 35 W most")
            text.press("Enter")
            expect(text).to_have_value("20 W is 30 % slower than 35 W [1]")
            text.press_sequentially(".")
            expect(page.get_by_role("list", name="Checked as you write")).to_contain_text("the data says otherwise")
            page.get_by_role("button", name="Save").click()
            use = page.get_by_role("region", name="For the touring dome")
            expect(use).to_contain_text("the data says otherwise")
            use.get_by_role("button", name="Take its figure").click()
            expect(use).to_contain_text("backed by 1")

        self.do(write)
        self.assertEqual(Pin.objects.get().number, 1)
        self.assertRegex(Verdict.objects.get().uses[0]["text"], r"^20 W is (9\.9|10\.\d) % slower than 35 W \[1\]\.$")

        def answer_and_publish() -> str:
            page.get_by_role("button", name="Write the answer").click()
            page.get_by_label("The answer in one sentence").fill("12 W would do too.")
            page.get_by_role("button", name="Save").click()
            expect(page.get_by_text("12 W was not measured")).to_be_visible()
            points = page.get_by_role("region", name="Before it goes out")
            point = points.get_by_role("listitem").filter(has_text="12 W would do too.")
            point.get_by_role("button", name="Accept it").click()
            point.get_by_role("textbox", name="Why it is accepted").fill("a hope")
            point.get_by_role("button", name="Keep").click()
            expect(points).to_contain_text("1 answered")
            page.get_by_role("button", name="Sign as author").click()
            expect(page.get_by_role("region", name="Signed")).to_contain_text("Editor, author")
            page.get_by_role("button", name="Publish edition 1").click()
            dialog = page.get_by_role("dialog")
            expect(dialog).to_contain_text("Signed by Editor (author)")
            dialog.get_by_role("button", name="Publish").click()
            slug = str(dialog.get_by_role("link").get_attribute("href"))
            dialog.get_by_role("button", name="Close").click()
            return slug

        first = self.do(answer_and_publish)

        def correct() -> str:
            page.get_by_role("button", name="Edit the answer").click()
            page.get_by_label("The answer in one sentence").fill("35 W it is.")
            page.get_by_role("button", name="Save").click()
            expect(page.get_by_role("region", name="Signed")).to_contain_text("taken back: the text changed since")
            page.get_by_role("button", name="Publish edition 2").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("What changed since the last edition").fill("12 W was a hope")
            dialog.get_by_role("button", name="Publish").click()
            return str(dialog.get_by_role("link").get_attribute("href"))

        second = self.do(correct)
        self.assertEqual(self.complaints, [])
        self.page = self.new_page()

        def read() -> None:
            page = self.page
            page.goto(first)
            expect(page.get_by_role("note")).to_contain_text("There is a newer one")
            expect(page.get_by_text("accepted, a hope (Editor)")).to_be_visible()
            page.goto(second)
            expect(page.get_by_text("signed by nobody")).to_be_visible()
            corrections = page.get_by_role("region", name="Corrections")
            expect(corrections.get_by_role("row", name=re.compile("the answer"))).to_contain_text("35 W it is.")
            page.locator("main sup").get_by_role("link", name="1", exact=True).first.click()
            expect(page).to_have_url(re.compile("#finding-1"))
            page.set_viewport_size({"width": 390, "height": 844})
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
            page.emulate_media(media="print")
            expect(page.get_by_role("navigation", name="Parts of this record")).to_be_hidden()

        self.do(read)
        self.assertEqual(self.complaints, [])

    def test_two_people_edit_two_uses_at_once_and_both_are_kept(self) -> None:
        editor = Browser("editor")
        uses = [{"key": key, "name": key, "text": f"Text of {key}."} for key in ("one", "two")]
        editor.send("patch", f"/api{self.path}", {"uses": uses}, **{"If-Match": '"v0"'})
        self.sign_in("editor", self.path)
        page = self.page

        def begin() -> None:
            page.get_by_role("region", name="For one").get_by_role("button", name="Edit").click()
            page.get_by_role("combobox", name="Text").fill("Mine.")

        self.do(begin)
        theirs = [{**uses[0]}, {**uses[1], "text": "Theirs."}]
        editor.send("patch", f"/api{self.path}", {"uses": theirs}, **{"If-Match": '"v1"'})

        def save() -> None:
            page.get_by_role("button", name="Save").click()
            expect(page.get_by_text("Mine.")).to_be_visible()
            expect(page.get_by_text("Theirs.")).to_be_visible()

        self.do(save)
        self.assertEqual([one["text"] for one in Verdict.objects.get().uses], ["Mine.", "Theirs."])

    def test_a_pinned_finding_is_dragged_into_the_text(self) -> None:
        self.pin()
        self.sign_in("editor", self.path)
        page = self.page

        def drag() -> None:
            page.get_by_role("button", name="Write the verdict").click()
            text = page.get_by_role("combobox", name="Text")
            text.fill("20 W is slower.")
            page.get_by_role("region", name="Pinned findings").get_by_role("listitem").first.drag_to(text)
            expect(text).to_have_value(re.compile(r"\[1\]"))
            page.get_by_role("button", name="Save").click()
            expect(page.get_by_role("region", name="In all")).to_contain_text("backed by 1")

        self.do(drag)
        self.assertEqual(self.complaints, [])

    def test_versions_are_compared(self) -> None:
        editor = Browser("editor")
        for version, answer in enumerate(("35 W it is.", "20 W it is.")):
            editor.send("patch", f"/api{self.path}", {"answer": answer}, **{"If-Match": f'"v{version}"'})
        self.sign_in("reader", self.path)

        def work() -> None:
            self.page.get_by_role("button", name="Earlier versions").click()
            lines = self.page.get_by_role("list", name="Differences")
            expect(lines).to_contain_text("taken out: 35 W it is.")
            expect(lines).to_contain_text("new: 20 W it is.")

        self.do(work)
        self.assertEqual(self.complaints, [])


class NotSettled(BrowserTest):
    def test_what_would_settle_a_sentence_goes_on_the_docket(self) -> None:
        review = self.scene.review.pk
        for column, rates in ((0, (59.5, 60.5, 60.0)), (1, (58.5, 59.5, 59.0))):
            self.scene.owe(column=column, count=3)
            for seed, rate in enumerate(rates):
                self.bench.deliver(steady(rate, seed=seed))
        # Without sessions, passes are compared as passes.
        Pass.objects.update(session=None)
        uses = [{"key": "one", "text": "20 W is slower than 35 W."}]
        Browser("editor").send("patch", f"/api/reviews/{review}/verdict", {"uses": uses}, **{"If-Match": '"v0"'})
        self.sign_in("editor", f"/reviews/{review}/verdict")

        def settle() -> str:
            use = self.page.get_by_role("region", name="In all")
            expect(use).to_contain_text("not settled")
            button = use.get_by_role("button", name=re.compile("on the docket"))
            words = button.inner_text()
            button.click()
            expect(self.page.get_by_text(re.compile(r"passes put on the docket"))).to_be_visible()
            return words

        wanted = int(re.findall(r"\d+", self.do(settle))[0])
        self.assertGreater(wanted, 0)
        self.assertEqual(Entry.objects.filter(state=State.OWED).count(), wanted)
        self.assertEqual(self.complaints, [])


class FromElsewhere(BrowserTest):
    def test_a_record_of_others_is_brought_in_checked_and_read(self) -> None:
        self.scene.owe(count=2)
        for seed in range(2):
            self.bench.deliver(steady(60, seed=seed))
        editor = Browser("editor")
        slug = editor.send("post", f"/api/reviews/{self.scene.review.pk}/records", {}).json()["slug"]
        blob = b"".join(Browser().get(f"/records/{slug}/package.zip").streaming_content)  # type: ignore[attr-defined]
        self.sign_in("editor", "/reviews")
        page = self.page
        file: FilePayload = {"name": "record.zip", "mimeType": "application/zip", "buffer": blob}

        def bring() -> None:
            page.get_by_label("Data package of a record").set_input_files(file)
            expect(page.get_by_role("region", name="From elsewhere").get_by_text("being checked")).to_be_visible()

        self.do(bring)
        check(ForeignRecord.objects.get().pk)

        def read() -> None:
            section = page.get_by_role("region", name="From elsewhere")
            expect(section).to_contain_text("figures and comparisons agree")
            section.get_by_role("link", name=self.scene.review.question).click()
            expect(page.get_by_role("note")).to_contain_text("Measured and published elsewhere")
            expect(page.get_by_role("region", name="Questions")).to_have_count(0)
            page.go_back()
            page.get_by_role("button", name=re.compile("Take off the list")).click()
            expect(section.get_by_role("listitem")).to_have_count(0)

        self.do(read)
        self.assertEqual(self.complaints, [])


class TalkBeside(BrowserTest):
    def test_somebody_is_named_told_and_answers(self) -> None:
        review = self.scene.review.pk
        self.sign_in("tester", f"/reviews/{review}/brief")

        def say() -> None:
            page = self.page
            page.get_by_role("heading", level=1).wait_for()
            page.keyboard.press("c")
            field = page.get_by_role("combobox", name="A new comment")
            field.press_sequentially("Is 15 W wanted, @edi")
            page.get_by_role("option", name=re.compile("Editor")).wait_for()
            field.press("Enter")
            expect(field).to_have_value("Is 15 W wanted, @editor ")
            field.press("Control+Enter")
            said = page.get_by_role("complementary", name="Talk").get_by_role("listitem")
            expect(said).to_contain_text("Is 15 W wanted, @editor")

        self.do(say)
        self.assertEqual(Notice.objects.get().person.username, "editor")
        self.page = self.new_page()
        self.sign_in("editor", "/reviews")

        def answer() -> None:
            page = self.page
            page.get_by_role("link", name="inbox 1").click()
            expect(page.get_by_role("listitem").first).to_contain_text("names you")
            page.get_by_role("listitem").first.get_by_role("link").click()
            talk = page.get_by_role("complementary", name="Talk")
            talk.get_by_role("button", name="Answer").click()
            talk.get_by_role("combobox", name="An answer").fill("Yes, for the libraries.")
            talk.get_by_role("button", name="Send").last.click()
            expect(talk).to_contain_text("Yes, for the libraries.")
            talk.get_by_role("button", name="Close the thread").click()
            expect(talk).to_contain_text("1 closed")
            expect(page.get_by_role("link", name="inbox", exact=True)).to_be_visible()

        self.do(answer)
        self.assertEqual(Comment.objects.count(), 2)
        self.assertEqual(self.complaints, [])


class ReadersMessages(BrowserTest):
    def test_a_reader_asks_and_is_answered_in_public(self) -> None:
        self.scene.owe(count=2)
        for seed in range(2):
            self.bench.deliver(steady(60, seed=seed))
        editor = Browser("editor")
        slug = editor.send("post", f"/api/reviews/{self.scene.review.pk}/records", {}).json()["slug"]
        Message.objects.create(review=self.scene.review, edition=1, kind="question", text="How loud is it?")
        self.sign_in("editor", "/inbox")

        def work() -> None:
            page = self.page
            readers = page.get_by_role("region", name="From readers")
            expect(readers).to_contain_text("1 waiting")
            readers.get_by_role("button", name="Answer").click()
            readers.get_by_role("textbox").fill("30 dB at 1 m.")
            readers.get_by_role("button", name="Publish the answer").click()
            expect(readers).to_contain_text("shown under the record")
            page.goto(f"/records/{slug}")
            expect(page.get_by_text("How loud is it?")).to_be_visible()
            expect(page.get_by_text("30 dB at 1 m.")).to_be_visible()

        self.do(work)
        self.assertEqual(self.complaints, [])
