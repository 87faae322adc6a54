"""Files and folders brought in: looked at first, stored in the background, repeatable, broken off, bounded."""

import io
import json
import uuid
import zipfile
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import mock

import numpy as np
from django.test import override_settings

from nomothet.core.frames import frame_figures
from nomothet.server.imports import archive, commands, running, storing
from nomothet.server.imports.models import ImportJob
from nomothet.server.imports.tasks import take_up_again
from nomothet.server.passes.models import ColumnMap, Pass, Series
from tests.server.base import Browser, SceneTest, steady

AT_ONCE = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}}
LATER = {"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend"}}


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
        self.assertEqual(set(owner.series.values_list("name", flat=True)), {"frames", "Temp", "original"})
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
