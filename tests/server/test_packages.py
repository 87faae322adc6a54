"""The data package of a record: valid for others, checked figure by figure, and a changed byte is found."""

import hashlib
import io
import json
import zipfile
from collections.abc import Callable
from contextlib import redirect_stdout
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from frictionless import Package, system

from nomothet.cli.main import main
from nomothet.formats.record_packages import Checked, check_package
from tests.server.base import Browser
from tests.server.test_record_pages import RecordTest
from tests.server.test_verdicts import write_verdict


def with_hashes(members: dict[str, bytes]) -> dict[str, bytes]:
    """Files of a package, with the hashes that they have now."""
    about = json.loads(members["datapackage.json"])
    for one in about["resources"]:
        one["hash"] = f"sha256:{hashlib.sha256(members[one['path']]).hexdigest()}"
    return {**members, "datapackage.json": json.dumps(about).encode()}


def zipped(members: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return out.getvalue()


def fps_row(record: Any) -> Any:
    return next(row for row in record["matrix"]["rows"] if row["metric"] == "average_fps")


def change_of(record: Any) -> Any:
    """The comparison that a record shows of the average frame rate."""
    row, baseline = fps_row(record), str(record["matrix"]["baseline"])
    return next(cell["comparison"] for column, cell in row["cells"].items() if column != baseline)


def other_of(record: Any) -> Any:
    """The same against the other configuration."""
    row, baseline = fps_row(record), str(record["matrix"]["baseline"])
    other = next(one for one in record["against"] if one != baseline)
    return record["against"][other][row["key"]][baseline]


class PackageTest(RecordTest):
    """A record that was published, with its package."""

    slug: str
    blob: bytes

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        path = f"/api/reviews/{cls.scene.review.pk}"
        write_verdict(f"{path}/verdict", "20 W is [1 amount] slower [1].", "20 W costs a tenth.")
        cls.slug = Browser("editor").send("post", f"{path}/records", {"change_note": ""}).json()["slug"]
        answer = Browser().get(f"/records/{cls.slug}/package.zip")
        cls.blob = b"".join(answer.streaming_content)  # type: ignore[attr-defined]

    def setUp(self) -> None:
        super().setUp()
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.file = self.folder / "record.zip"
        self.file.write_bytes(self.blob)

    def members(self) -> dict[str, bytes]:
        with zipfile.ZipFile(io.BytesIO(self.blob)) as archive:
            return {name: archive.read(name) for name in archive.namelist()}

    def checked(self, members: dict[str, bytes]) -> Checked:
        changed = self.folder / "changed.zip"
        changed.write_bytes(zipped(members))
        return check_package(changed)


class Valid(PackageTest):
    def test_a_validator_of_others_finds_nothing_wrong(self) -> None:
        with zipfile.ZipFile(io.BytesIO(self.blob)) as archive:
            archive.extractall(self.folder / "unpacked")
        with system.use_context(trusted=True):
            package = Package(str(self.folder / "unpacked" / "datapackage.json"))
            package.resources = [one for one in package.resources if one.type == "table"]
            report = package.validate()
        self.assertTrue(report.valid, report.flatten(["type", "note", "message"])[:5])
        self.assertGreaterEqual(len(package.resources), 4 + 6)

    def test_it_holds_the_captures_the_record_and_the_page(self) -> None:
        members = self.members()
        self.assertEqual(sum(name.startswith("captures/") for name in members), 6)
        about = json.loads(members["datapackage.json"])
        self.assertEqual((about["title"], about["description"]), (self.scene.review.question, "20 W costs a tenth."))
        self.assertIn(b"20 W costs a tenth.", members["page.html"])
        self.assertEqual(json.loads(members["record.json"])["verdict"]["answer"], "20 W costs a tenth.")

    def test_the_same_package_is_the_same_bytes(self) -> None:
        again = Browser().get(f"/records/{self.slug}/package.zip")
        without_stamp = {
            name: data for name, data in self.members().items() if name not in ("page.html", "datapackage.json")
        }
        with zipfile.ZipFile(io.BytesIO(b"".join(again.streaming_content))) as archive:  # type: ignore[attr-defined]
            self.assertEqual({name: archive.read(name) for name in without_stamp}, without_stamp)


class Checks(PackageTest):
    def test_every_figure_is_worked_out_again_and_agrees(self) -> None:
        found = check_package(self.file)
        self.assertEqual(found.wrong, [])
        self.assertGreaterEqual(found.figures, 6 * 15)
        self.assertEqual((found.centres, found.comparisons), (4, 4))

    def test_the_command_says_how_many_agree(self) -> None:
        out = io.StringIO()
        with redirect_stdout(out):
            self.assertEqual(main(["check", str(self.file)]), 0)
        self.assertIn("All of them agree", out.getvalue())

    def test_a_changed_byte_is_found_wherever_it_is(self) -> None:
        members = self.members()
        for name in members:
            if name == "datapackage.json":
                continue
            with self.subTest(name):
                data = members[name]
                middle = len(data) // 2
                changed = {**members, name: data[:middle] + bytes([data[middle] ^ 1]) + data[middle + 1 :]}
                self.assertIn(name, {one.where for one in self.checked(changed).wrong})

    def test_a_changed_figure_is_found_also_where_its_hash_is_changed_with_it(self) -> None:
        members = self.members()
        lines = members["figures.csv"].decode().split("\r\n")
        at = next(at for at, line in enumerate(lines) if ",average_fps," in line)
        fields = lines[at].split(",")
        place = fields.index("average_fps") + 1
        fields[place] = repr(float(fields[place]) * 1.001)
        lines[at] = ",".join(fields)
        found = self.checked(with_hashes({**members, "figures.csv": "\r\n".join(lines).encode()}))
        self.assertTrue(any("average_fps" in one.where for one in found.wrong), found.wrong)

    def test_a_changed_capture_is_found_also_where_its_hash_is_changed_with_it(self) -> None:
        members = self.members()
        name = next(name for name in members if name.startswith("captures/"))
        lines = members[name].decode().split("\r\n")
        lines[5] = "99.0"
        found = self.checked(with_hashes({**members, name: "\r\n".join(lines).encode()}))
        self.assertTrue(found.wrong)

    def lied(self, lie: Callable[[Any], object]) -> list[str]:
        """What is found wrong about a record that somebody changed together with its hash."""
        members = self.members()
        record = json.loads(members["record.json"])
        lie(record)
        changed = self.checked(with_hashes({**members, "record.json": json.dumps(record).encode()}))
        return [one.where for one in changed.wrong]

    def test_a_comparison_that_says_otherwise_is_found_wherever_it_stands(self) -> None:
        self.assertEqual(self.lied(lambda record: None), [])
        lies: dict[str, Callable[[Any], object]] = {
            "change shown": lambda record: change_of(record).update(change=change_of(record)["change"] * 1.0001),
            "lower end shown": lambda record: change_of(record).update(low=change_of(record)["low"] - 0.001),
            "upper end shown": lambda record: change_of(record).update(high=None),
            "verdict shown": lambda record: change_of(record).update(verdict="level"),
            "against 20 W": lambda record: other_of(record).update(verdict="level"),
            "no passes to compare": lambda record: record["samples"].clear() or record["samples"].update(other={}),
        }
        for where, lie in lies.items():
            with self.subTest(where):
                self.assertTrue(self.lied(lie))
                if where != "no passes to compare":
                    self.assertTrue(any(one.endswith(where) for one in self.lied(lie)), self.lied(lie))

    def test_a_sample_that_is_no_figure_of_its_pass_is_found(self) -> None:
        def lie(record: Any) -> None:
            row = fps_row(record)
            column = next(iter(row["cells"]))
            record["samples"][row["key"]][column]["numbers"][0] += 1

        self.assertTrue(any(one.startswith("average") for one in self.lied(lie)), self.lied(lie))

    def test_a_package_of_before_samples_were_kept_is_checked_without_them(self) -> None:
        self.assertEqual(self.lied(lambda record: record.pop("samples")), [])

    def test_missing_and_added_files_are_told(self) -> None:
        members = self.members()
        del members["passes.csv"]
        members["extra.txt"] = b"x"
        told = {(one.where, one.found) for one in self.checked(members).wrong}
        self.assertLessEqual({("passes.csv", "missing"), ("extra.txt", "added")}, told)

    def test_what_is_no_package_is_refused_with_a_word(self) -> None:
        (self.folder / "text.zip").write_text("no archive")
        self.assertEqual(main(["check", str(self.folder / "text.zip")]), 2)
        with zipfile.ZipFile(self.folder / "empty.zip", "w") as archive:
            archive.writestr("a", "b")
        self.assertEqual(main(["check", str(self.folder / "empty.zip")]), 2)
        self.assertEqual(main(["check", str(self.folder / "none.zip")]), 2)

    def test_odd_contents_end_in_a_word_and_not_in_a_traceback(self) -> None:
        members = self.members()
        for name, data in (
            ("record.json", b"[]"),
            ("record.json", b"{"),
            ("figures.csv", b"a,b\r\n"),
            ("comparisons.csv", b"\xff"),
        ):
            with self.subTest(name=name, data=data):
                self.assertTrue(self.checked(with_hashes({**members, name: data})).wrong)
