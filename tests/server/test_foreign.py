"""Records of others: brought in by their package, checked, read, and never counted among our own."""

import io
import json
import zipfile
from collections.abc import Callable
from typing import Any
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings

from nomothet.server.foreign import checking, commands, packages
from nomothet.server.foreign.models import ForeignRecord, PackagePiece
from nomothet.server.foreign.tasks import take_up_again
from tests.server.base import Browser
from tests.server.tasks import AT_ONCE, LATER
from tests.server.test_packages import PackageTest, with_hashes, zipped

LIST = "/api/foreign"


@override_settings(TASKS=AT_ONCE)
class ForeignTest(PackageTest):
    def bring(self, blob: bytes, who: str = "editor", status: int = 201) -> Any:
        with self.captureOnCommitCallbacks(execute=True):
            file = SimpleUploadedFile("record.zip", blob)
            browser = Browser(who)
            headers = {"X-CSRFToken": browser.client.cookies["csrftoken"].value}
            answer = browser.client.post(LIST, {"file": file}, headers=headers)
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def changed(self, change: Callable[[Any], object], **about: object) -> bytes:
        """The package with something else in its record, and hashes that agree."""
        members = self.members()
        record = json.loads(members["record.json"])
        change(record)
        told = {**json.loads(members["datapackage.json"]), **about}
        members |= {"record.json": json.dumps(record).encode(), "datapackage.json": json.dumps(told).encode()}
        return zipped(with_hashes(members))

    def listed(self) -> Any:
        return Browser("reader").json(LIST)

    def page(self, record: int, rest: str = "", who: str | None = "reader") -> Any:
        return Browser(who).get(f"/foreign/{record}{rest}")


class BroughtIn(ForeignTest):
    def test_it_is_listed_with_its_answer_and_how_much_agreed(self) -> None:
        made = self.bring(self.blob)
        (one,) = self.listed()
        self.assertEqual((one["id"], one["state"], one["answer"]), (made["id"], "ready", "20 W costs a tenth."))
        self.assertEqual((one["question"], one["columns"]), (self.scene.review.question, ["35 W", "20 W"]))
        self.assertGreaterEqual(one["checked"], 6 * 15 + 4 + 4)
        self.assertEqual(one["origin"], f"http://localhost/records/{self.slug}")

    def test_its_page_shows_what_was_published_and_where_it_is_from(self) -> None:
        made = self.bring(self.blob)
        text = self.page(made["id"]).content.decode()
        for words in ("20 W costs a tenth.", "Measured and published elsewhere", f"/records/{self.slug}", "edition 1"):
            with self.subTest(words):
                self.assertIn(words, text)
        self.assertNotIn('<form class="ask', text)
        other = self.scene.columns[1].pk
        self.assertIn("+11.", self.page(made["id"], f"?baseline={other}").content.decode())

    def test_its_package_and_tables_are_given_back_byte_by_byte(self) -> None:
        made, members = self.bring(self.blob), self.members()
        with mock.patch.object(packages, "PIECE", 1 << 20):
            self.assertEqual(b"".join(self.page(made["id"], "/package.zip").streaming_content), self.blob)
        capture = next(name for name in members if name.startswith("captures/"))
        for name in ("figures.csv", "comparisons.csv", capture):
            with self.subTest(name):
                answer = self.page(made["id"], f"/tables/{name}")
                self.assertEqual(b"".join(answer.streaming_content), members[name])
        self.assertIn(f"/tables/{capture}", self.page(made["id"], "/captures.csv").content.decode())
        for name in ("record.json", "page.html", "../settings.py", "nothing.csv"):
            with self.subTest(name):
                self.assertEqual(self.page(made["id"], f"/tables/{name}").status_code, 404)

    def test_it_is_read_in_small_pieces_as_in_one(self) -> None:
        with mock.patch.object(packages, "PIECE", 1000):
            record = ForeignRecord.objects.get(pk=self.bring(self.blob)["id"])
            self.assertEqual(record.state, "ready", record.problem)
            self.assertGreater(record.pieces.count(), 10)
            with packages.opened(record) as archive:
                self.assertEqual({name: archive.read(name) for name in archive.namelist()}, self.members())

    def test_only_the_team_reads_it(self) -> None:
        made = self.bring(self.blob)
        for rest in ("", "/package.zip", "/captures.csv", "/tables/figures.csv", "/pictures/1"):
            with self.subTest(rest):
                self.assertEqual(self.page(made["id"], rest, who=None).status_code, 302)
        self.assertEqual(Browser().get(LIST).status_code, 401)

    def test_it_changes_nothing_among_our_own(self) -> None:
        before = (Browser("reader").json("/api/reviews"), Browser("reader").json(f"{self.review_path}/matrix"))
        self.bring(self.blob)
        after = (Browser("reader").json("/api/reviews"), Browser("reader").json(f"{self.review_path}/matrix"))
        self.assertEqual(before, after)

    def test_the_same_package_is_the_same_record(self) -> None:
        self.assertEqual(self.bring(self.blob)["id"], self.bring(self.blob)["id"])
        self.assertEqual(len(self.listed()), 1)

    def test_taken_off_it_is_gone_from_sight_and_comes_back_with_its_package(self) -> None:
        made = self.bring(self.blob)
        path = f"{LIST}/{made['id']}"
        self.assertEqual(Browser("tester").send("delete", path).status_code, 403)
        self.assertEqual(self.editor.send("delete", path).status_code, 204)
        self.assertEqual((self.listed(), self.page(made["id"]).status_code), ([], 404))
        self.assertEqual(self.bring(self.blob)["id"], made["id"])
        self.assertEqual(self.page(made["id"]).status_code, 200)

    def test_what_a_worker_was_killed_over_is_checked_again(self) -> None:
        with override_settings(TASKS=LATER):
            self.bring(self.blob)
        (one,) = self.listed()
        self.assertEqual((one["state"], self.page(one["id"]).status_code), ("checking", 404))
        self.assertEqual(self.editor.send("delete", f"{LIST}/{one['id']}").status_code, 409)
        take_up_again()
        self.assertEqual(self.listed()[0]["state"], "ready")


class Refused(ForeignTest):
    def refusal(self, blob: bytes) -> str:
        made = self.bring(blob)
        (one,) = (one for one in self.listed() if one["id"] == made["id"])
        self.assertEqual((one["state"], self.page(one["id"]).status_code), ("refused", 404))
        problem: str = one["problem"]
        return problem

    def test_what_is_no_package_is_not_kept(self) -> None:
        other = io.BytesIO()
        with zipfile.ZipFile(other, "w") as archive:
            archive.writestr("a", "b")
        for blob in (b"text", other.getvalue(), self.blob[: len(self.blob) // 2]):
            with self.subTest(blob[:9]):
                self.assertIn("Nothing was stored", self.bring(blob, status=422)["detail"])
        self.assertEqual((ForeignRecord.objects.count(), PackagePiece.objects.count()), (0, 0))

    def test_only_editors_bring_one_in(self) -> None:
        self.bring(self.blob, who="tester", status=403)

    def test_one_that_is_too_large_is_not_kept(self) -> None:
        with mock.patch.object(commands, "MOST_BYTES", 1000):
            self.bring(self.blob, status=422)
        with mock.patch.object(commands, "MOST_UNPACKED", 1000):
            self.bring(self.blob, status=422)
        with mock.patch.object(commands, "MOST_READ", 1000):
            self.bring(self.blob, status=422)

    def test_a_changed_figure_is_named(self) -> None:
        members = self.members()
        text = members["figures.csv"].decode()
        line = next(line for line in text.split("\r\n") if ",average_fps," in line)
        value = line.split(",average_fps,")[1].split(",")[0]
        members["figures.csv"] = text.replace(f",average_fps,{value}", f",average_fps,{float(value) + 1}").encode()
        problem = self.refusal(zipped(with_hashes(members)))
        self.assertIn("average_fps", problem)
        self.assertIn("not as it was published", problem)

    def test_one_of_a_newer_program_says_so(self) -> None:
        self.assertIn("Bring this program up to date", self.refusal(self.changed(lambda r: r.update(format=99))))

    def test_nothing_in_it_is_taken_for_markup_or_for_an_address_to_run(self) -> None:
        def spoil(record: Any) -> None:
            record["review"]["question"] = "<script>alert(1)</script>"
            record["verdict"]["answer"] = '"><img src=x onerror=alert(2)>'
            record["review"]["columns"][0]["label"] = "<b>35 W</b>"

        made = self.bring(self.changed(spoil, homepage="javascript:alert(3)"))
        text = self.page(made["id"]).content.decode()
        for words in ("<script>alert", "<img src=x", "<b>35 W", "javascript:"):
            with self.subTest(words):
                self.assertNotIn(words, text)

    def test_odd_contents_are_refused_and_never_fail(self) -> None:
        odd: list[object] = [None, 5, "x", [], {}, [{}], {"a": {"b": 1}}]
        kept = json.loads(self.members()["record.json"])
        for key in kept:
            for value in odd:
                if value == kept[key] or (value in ({}, []) and not kept[key]):
                    continue
                with self.subTest(key=key, value=value):
                    made = self.bring(self.changed(lambda record, k=key, v=value: record.update({k: v})))
                    self.assertIn(made["state"], ("checking", "refused", "ready"))
                    state = ForeignRecord.objects.get(pk=made["id"])
                    self.assertNotIn("cannot be checked", state.problem)
                    if state.state == "ready":
                        self.assertEqual(self.page(made["id"]).status_code, 200)

    def test_a_mistake_of_ours_leaves_nobody_waiting(self) -> None:
        with mock.patch.object(checking, "check_archive", side_effect=ZeroDivisionError("mistake")):
            self.assertIn("cannot be checked", self.refusal(self.blob))
        self.bring(self.blob)
        self.assertEqual(self.listed()[0]["state"], "ready")
