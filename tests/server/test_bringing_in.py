"""Files and folders brought in: looked at first, stored in the background, repeatable, broken off, bounded."""

import gzip
import io
import json
import uuid
import zipfile
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import mock

import numpy as np
from django.test import override_settings

from nomothet.core.frames import frame_figures
from nomothet.server.imports import archive, commands, running, storing
from nomothet.server.imports.matching import guess_cell
from nomothet.server.imports.models import ImportJob
from nomothet.server.imports.tasks import take_up_again
from nomothet.server.passes.models import ColumnMap, Pass, Series
from tests.server.base import Browser, SceneTest, steady
from tests.server.tasks import AT_ONCE, LATER


def log(frames: np.ndarray, decimal: str = ".") -> bytes:
    clock = np.cumsum(frames) / 1000
    rows = [f"{clock[at]:.4f};{frame:.4f};{60 + at % 5}".replace(".", decimal) for at, frame in enumerate(frames)]
    return ("Time [s];Frame time [ms];Temp [°C]\n" + "\n".join(rows)).encode("latin-1")


def packed(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
        for name, content in files.items():
            target.writestr(name, content)
    return out.getvalue()


@override_settings(TASKS=AT_ONCE)
class BringTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        settings = override_settings(IMPORTS=self.folder)
        settings.enable()
        self.addCleanup(settings.disable)
        self.tester = Browser("tester")
        self.job = uuid.uuid4()

    @property
    def path(self) -> str:
        return f"{self.review_path}/imports/{self.job}"

    def bring(self, content: bytes, name: str = "run.csv", who: Browser | None = None) -> Any:
        return (who or self.tester).drop_file(self.path, content, name)

    def looked(self, content: bytes, name: str = "run.csv") -> dict[str, Any]:
        answer = self.bring(content, name)
        self.assertEqual(answer.status_code, 201, answer.content)
        return dict(json.loads(answer.content))

    def choose(self, *choices: dict[str, Any]) -> Any:
        return self.tester.send("patch", self.path, {"items": list(choices)})

    def cell(self, index: int, test: int = 0, column: int = 0) -> dict[str, Any]:
        return {"index": index, "test": self.scene.tests[test].pk, "column": self.scene.columns[column].pk}

    def start(self) -> Any:
        return self.tester.send("post", f"{self.path}/start")


class One(BringTest):
    def test_a_log_becomes_a_pass_with_its_lanes_figures_and_the_file_itself(self) -> None:
        frames = np.round(steady(60, 1500), 4)
        content = log(frames, ",")
        shown = self.looked(content)
        roles = {one["column"]: one["role"] for one in shown["items"][0]["columns"]}
        self.assertEqual(roles, {"Time [s]": "time", "Frame time [ms]": "frames", "Temp [°C]": "sensor"})
        self.assertEqual(Pass.objects.count(), 0)
        self.assertEqual(self.choose(self.cell(0)).status_code, 200)
        self.assertEqual(self.start().status_code, 202)
        owner = Pass.objects.get()
        self.assertAlmostEqual(
            owner.figures.get(metric="average_fps").value, frame_figures(frames).average_fps, places=6
        )
        self.assertEqual(set(owner.series.values_list("name", flat=True)), {"frames", "temperature", "original"})
        original = Series.objects.get(owner=owner, name="original")
        self.assertEqual(self.tester.get(f"/api/captures/{original.pk}.csv").content, content)
        self.assertEqual(self.tester.json(self.path)["state"], "done")
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_every_piece_of_a_large_original_can_be_read_alone(self) -> None:
        content = log(steady(60, 1500))
        self.looked(content)
        self.choose(self.cell(0))
        with mock.patch.object(storing, "_PIECE", 10_000):
            self.start()
        pieces = Series.objects.filter(name__startswith="original").order_by("pk")
        self.assertGreater(len(pieces), 1)
        self.assertEqual(b"".join(self.tester.get(f"/api/captures/{one.pk}.csv").content for one in pieces), content)

    def test_the_users_choice_of_columns_counts(self) -> None:
        self.looked(log(steady(60, 1200)))
        uses = [
            {"column": "Time [s]", "role": "ignore"},
            {"column": "Frame time [ms]", "role": "frames", "unit": "ms"},
            {"column": "Temp [°C]", "role": "sensor", "name": "package", "unit": "°C"},
        ]
        self.choose({**self.cell(0), "columns": uses})
        self.start()
        self.assertTrue(Pass.objects.get().series.filter(name="package").exists())

    def test_a_kept_map_is_offered_for_the_next_file(self) -> None:
        uses = [
            {"column": "Time [s]", "role": "time", "unit": "s"},
            {"column": "Temp [°C]", "role": "sensor", "name": "die", "unit": "°C"},
        ]
        answer = self.tester.send("post", "/api/column-maps", {"name": "recorder 3", "columns": uses})
        self.assertEqual(answer.status_code, 201, answer.content)
        (item,) = self.looked(log(steady(60, 1200)))["items"]
        self.assertEqual({one["column"]: one["role"] for one in item["columns"]}["Frame time [ms]"], "ignore")
        self.assertEqual(self.tester.json("/api/column-maps")[0]["name"], "recorder 3")
        self.assertEqual(ColumnMap.objects.get().by, self.scene.people["tester"])

    def test_sending_it_again_stores_nothing_twice(self) -> None:
        content = log(steady(60, 1200))
        self.assertEqual(self.looked(content)["id"], self.looked(content)["id"])
        self.choose(self.cell(0))
        self.start()
        self.problem(self.start(), 409)
        running.run(self.job)
        self.assertEqual(Pass.objects.count(), 1)

    def test_readers_are_refused(self) -> None:
        self.problem(self.bring(log(steady(60, 1200)), who=Browser("reader")), 403)
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_what_cannot_be_read_leaves_nothing_behind(self) -> None:
        for content, words in ((b"", "empty"), (b"\0\1\2" * 300, "not a text"), (b"words only\n" * 9, "no rows")):
            with self.subTest(words=words):
                self.assertIn(words, self.problem(self.bring(content), 422)["detail"])
        self.assertEqual((ImportJob.objects.count(), list(self.folder.iterdir())), (0, []))

    def test_a_file_over_the_bound_is_refused_before_it_is_whole(self) -> None:
        with mock.patch.object(archive, "MOST_BYTES", 10_000):
            self.assertIn("over 1 GB", self.problem(self.bring(log(steady(60, 1200))), 422)["detail"])
        self.assertEqual(list(self.folder.iterdir()), [])


class Foretold(BringTest):
    """What will be lost or looks odd is told before anything is stored."""

    def stamps(self) -> bytes:
        moments = np.cumsum(np.round(steady(60, 1200) * 1000))
        return ("frame,timestamp_us\n" + "\n".join(f"{n},{at:.0f}" for n, at in enumerate(moments))).encode()

    def test_stamps_are_proposed_and_stored_as_frames(self) -> None:
        content = self.stamps()
        (item,) = self.looked(content)["items"]
        self.assertEqual([one["role"] for one in item["columns"]], ["ignore", "stamps"])
        self.assertIn("1,199 frames", item["remarks"][0])
        self.assertIn("left out: frame", item["remarks"])
        self.choose(self.cell(0))
        self.start()
        self.assertAlmostEqual(Pass.objects.get().figures.get(metric="average_fps").value, 60.0, delta=0.1)

    def test_a_choice_that_cannot_be_read_is_refused_at_once_with_the_remedy(self) -> None:
        self.looked(self.stamps())
        uses = [{"column": "frame", "role": "ignore"}, {"column": "timestamp_us", "role": "frames", "unit": "ms"}]
        (item,) = self.choose({**self.cell(0), "columns": uses}).json()["items"]
        self.assertRegex(item["refusal"], "median frame would last.*timestamps")
        self.start()
        (item,) = self.tester.json(self.path)["items"]
        self.assertEqual((item["state"], Pass.objects.count()), ("failed", 0))

    def test_rows_without_a_time_get_one_by_the_choice(self) -> None:
        content = ("power [W]\n" + "\n".join(str(50 + at % 9) for at in range(120))).encode()
        (item,) = self.looked(content)["items"]
        self.assertIn("no column is the time", item["refusal"])
        (item,) = self.choose({**self.cell(0), "every_s": 0.5}).json()["items"]
        self.assertEqual(item["refusal"], "")
        self.start()
        self.assertEqual(Pass.objects.get().duration_s, 59.5)

    def test_only_files_that_are_to_be_read_otherwise_are_looked_at_again(self) -> None:
        (item,) = self.looked(self.stamps())["items"]
        same = [{key: use[key] for key in ("column", "role", "name", "unit")} for use in item["columns"]]
        with mock.patch.object(commands, "foretell") as looked:
            self.assertEqual(self.choose({**self.cell(0), "columns": same, "every_s": None}).status_code, 200)
            self.assertEqual(looked.call_count, 0)
            self.choose({**self.cell(0), "columns": [{**same[1], "unit": "ms"}]})
            self.assertEqual(looked.call_count, 1)

    def test_a_kept_map_brings_its_distance_of_rows_along(self) -> None:
        uses = [{"column": "power [W]", "role": "sensor", "name": "power", "unit": "W"}]
        self.tester.send("post", "/api/column-maps", {"name": "meter", "columns": uses, "every_s": 0.5})
        content = ("power [W]\n" + "\n".join(str(50 + at % 9) for at in range(120))).encode()
        (item,) = self.looked(content)["items"]
        self.assertEqual((item["every_s"], item["refusal"]), (0.5, ""))

    def test_the_pass_begins_when_the_file_says(self) -> None:
        rows = "\n".join(f"2026-03-04T10:{at // 60:02d}:{at % 60:02d}Z,{50 + at % 7}" for at in range(120))
        self.looked(f"at,temp [°C]\n{rows}".encode())
        self.choose(self.cell(0))
        self.start()
        self.assertEqual(Pass.objects.get().started_at, datetime(2026, 3, 4, 10, 0, tzinfo=UTC))

    def test_what_stands_still_is_told_and_kept_with_the_pass(self) -> None:
        rows = "\n".join(f"{at * 0.5},{50 + at % 7},0" for at in range(120))
        (item,) = self.looked(f"time,power [W],fan [rpm]\n{rows}".encode())["items"]
        self.assertIn("fan reads 0 rpm from beginning to end", item["remarks"])
        self.choose(self.cell(0))
        self.start()
        self.assertIn("fan reads 0 rpm", Pass.objects.get().note)

    def test_a_gzip_file_is_unpacked_within_bounds(self) -> None:
        content = log(steady(60, 1200))
        (item,) = self.looked(gzip.compress(content), "run.csv.gz")["items"]
        self.assertEqual(item["name"], "run.csv")
        self.choose(self.cell(0))
        self.start()
        original = Series.objects.get(name="original")
        self.assertEqual(self.tester.get(f"/api/captures/{original.pk}.csv").content, content)

    def test_a_gzip_file_that_bursts_or_is_damaged_is_refused(self) -> None:
        with mock.patch.object(archive, "MOST_BYTES", 10_000):
            self.assertIn("over 1 GB", self.problem(self.bring(gzip.compress(b"1\n" * 50_000), "a.gz"), 422)["detail"])
        cut = gzip.compress(log(steady(60, 1200)))[:-2000]
        self.assertIn("cannot be unpacked", self.problem(self.bring(cut, "a.gz"), 422)["detail"])


class Names(SceneTest):
    """The cell that a file belongs to, by its name."""

    def guessed(self, name: str) -> tuple[int | None, int | None]:
        found = guess_cell(name, self.scene.tests, self.scene.columns)
        return found.test, found.column

    def test_a_name_that_stands_whole_goes_before_words(self) -> None:
        first, second = self.scene.columns
        first.label, second.label = "35 W", "35 W quiet"
        for name, column in (("reef walk 35 W.csv", first), ("reef walk 35 W quiet.csv", second)):
            with self.subTest(name=name):
                self.assertEqual(self.guessed(name)[1], column.pk)

    def test_words_joined_by_capitals_are_parted(self) -> None:
        first, second = self.scene.columns
        first.label, second.label = "quiet fan", "loud fan"
        self.assertEqual(self.guessed("ReefWalkQuietFan01.csv")[1], first.pk)
        self.assertEqual(self.guessed("ReefWalkLoudFan01.csv")[1], second.pk)

    def test_what_names_both_stays_open(self) -> None:
        first, second = self.scene.columns
        first.label, second.label = "quiet", "loud"
        self.assertIsNone(self.guessed("quiet or loud.csv")[1])


class Folders(BringTest):
    def folder_of(self, count: int = 2) -> bytes:
        files = {
            f"monday/reef walk {label} {run}.csv": log(steady(rate, 1200, seed=run))
            for label, rate in (("35W", 60.0), ("20 W", 54.0))
            for run in range(count)
        }
        return packed({**files, "monday/notes.txt": b"nothing to read", "__MACOSX/x": b"x"})

    def test_files_find_their_cells_by_their_names(self) -> None:
        shown = self.looked(self.folder_of(), "monday.zip")
        found = [(one["test"], one["column"], bool(one["problem"])) for one in shown["items"]]
        scene, (first, second) = self.scene.tests[0].pk, (column.pk for column in self.scene.columns)
        self.assertEqual(found[:4], [(scene, first, False)] * 2 + [(scene, second, False)] * 2)
        self.assertTrue(found[4][2])

    def test_who_has_brought_in_enough_for_a_day_is_told(self) -> None:
        self.looked(self.folder_of(), "monday.zip")
        self.start()
        self.job = uuid.uuid4()
        with override_settings(GIB_A_DAY=1e-6):
            told = self.problem(self.bring(self.folder_of(), "tuesday.zip"), 429)
            self.assertIn("within a day", told["detail"])
            frames = f"{self.cell_path()}/frames/{uuid.uuid4()}"
            self.problem(self.tester.drop_file(frames, b"frame_ms\n16.6\n16.7\n"), 429)
        self.assertEqual(ImportJob.objects.count(), 1)
        self.looked(self.folder_of(), "tuesday.zip")

    def test_all_are_stored_with_progress_and_the_bad_one_is_told(self) -> None:
        self.looked(self.folder_of(), "monday.zip")
        self.start()
        job = self.tester.json(self.path)
        self.assertEqual((job["state"], job["done"], job["wanted"]), ("done", 4, 4))
        self.assertEqual([one["state"] for one in job["items"]], ["stored"] * 4 + ["waiting"])
        self.assertEqual(sorted(Pass.objects.values_list("column", "number")), sorted(
            (column.pk, number) for column in self.scene.columns for number in (1, 2)
        ))  # fmt: skip

    def test_a_worker_that_was_killed_goes_on_without_doubles(self) -> None:
        self.looked(self.folder_of(), "monday.zip")
        with override_settings(TASKS=LATER):
            self.start()
        stored = running.store_recording
        calls = iter([stored, stored, mock.Mock(side_effect=KeyboardInterrupt)])
        killed = mock.patch.object(running, "store_recording", side_effect=lambda *a: next(calls)(*a))
        with killed, self.assertRaises(KeyboardInterrupt):
            running.run(self.job)
        self.assertEqual((Pass.objects.count(), ImportJob.objects.get().state), (2, "running"))
        take_up_again()
        self.assertEqual((Pass.objects.count(), ImportJob.objects.get().state), (4, "done"))

    def test_breaking_it_off_keeps_what_is_stored(self) -> None:
        self.looked(self.folder_of(), "monday.zip")
        with override_settings(TASKS=LATER):
            self.start()
        stored = running.store_recording

        def store_and_cancel(*arguments: Any) -> Pass:
            commands.cancel(self.scene.people["tester"], ImportJob.objects.get())
            return stored(*arguments)

        with mock.patch.object(running, "store_recording", side_effect=store_and_cancel):
            running.run(self.job)
        self.assertEqual((Pass.objects.count(), ImportJob.objects.get().state), (1, "cancelled"))

    def test_without_a_cell_nothing_can_be_stored(self) -> None:
        self.looked(log(steady(60, 1200)), "x.csv")
        self.assertIn("No file has a cell", self.problem(self.start(), 422)["detail"])

    def test_cells_of_another_review_are_refused(self) -> None:
        self.looked(log(steady(60, 1200)))
        other = self.scene.new_review("other", "Another question?")
        choice = {**self.cell(0), "test": other.tests.get(position=0).pk}
        self.problem(self.choose(choice), 422)

    def test_archives_made_to_burst_are_refused(self) -> None:
        bomb = packed({"zeros.csv": b"0" * 60_000_000})
        self.assertIn("would unpack", self.problem(self.bring(bomb, "x.zip"), 422)["detail"])
        with mock.patch.object(archive, "MOST_FILES", 3):
            self.assertIn("files", self.problem(self.bring(self.folder_of(), "x.zip"), 422)["detail"])
        damaged = bytearray(self.folder_of())
        damaged[200:900] = bytes(700)
        self.bring(bytes(damaged), "x.zip")
        self.assertEqual(Pass.objects.count(), 0)

    def test_a_member_that_lies_about_its_size_is_cut_off(self) -> None:
        path = self.folder / "x.zip"
        path.write_bytes(packed({"a.csv": b"1,2\n" * 5000}))
        bound = mock.patch.object(archive, "MOST_BYTES", 1000)
        with bound, self.assertRaisesRegex(ValueError, "over 1 GB"), archive.opened(path, "a.csv"):
            self.fail("it was opened")
