"""How an installation is, told to anybody in a word and to admins in full; and what it lets go of."""

import json
import os
import uuid
from collections import namedtuple
from datetime import timedelta
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from django.db import OperationalError, connection
from django.test import override_settings
from django.utils import timezone
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult
from prometheus_client.openmetrics.parser import text_string_to_metric_families

from nomothet.server.feed.models import Change, Head
from nomothet.server.imports.models import ImportJob, JobState
from nomothet.server.imports.tasks import run_import
from nomothet.server.imports.tasks import take_up_again as take_up_imports
from nomothet.server.people.models import OneTimeLink, Token, User, Visit
from nomothet.server.people.tokens import make_token
from nomothet.server.upkeep import health as health_module
from nomothet.server.upkeep.cleaning import clean
from nomothet.server.upkeep.life import is_due, show_life
from nomothet.server.upkeep.models import Backup, SignOfLife
from nomothet.server.upkeep.places import PLACES, NoPlace, Place
from nomothet.server.upkeep.tasks import clean_up
from nomothet.server.waiting import enqueue_once, resume_interrupted
from tests.server.base import Browser, SceneTest

Usage = namedtuple("Usage", "total used free")
_GIB = 1 << 30


def later(**span: float) -> mock._patch:  # type: ignore[type-arg]
    """Everything as it will be after a while."""
    now = timezone.now() + timedelta(**span)
    return mock.patch("django.utils.timezone.now", return_value=now)


class HealthTest(SceneTest):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(self.look_anew)
        show_life("worker")
        show_life("installed")

    @staticmethod
    def look_anew() -> None:
        """As a process that has just been started, which has looked at nothing yet."""
        health_module._kept = health_module._Kept()

    def health(self, status: int = 200) -> dict[str, str]:
        """The states of parts as anybody is told them."""
        self.look_anew()
        answer = Browser().get("/health")
        self.assertEqual(answer.status_code, status)
        told = json.loads(answer.content)
        self.assertEqual(set(told), {"status", "parts"})
        return {"": told["status"], **told["parts"]}

    def words(self) -> list[str]:
        """What an admin is told to be wrong."""
        self.look_anew()
        parts = Browser("admin").json("/api/installation")["parts"]
        return [words for part in parts for words in part["words"]]


class Health(HealthTest):
    def test_all_is_well(self) -> None:
        self.assertEqual(set(self.health().values()), {"well"})
        with override_settings(BACKUPS=Path("/proc")):
            self.look_anew()
            self.assertEqual(self.words(), [])

    def test_a_silent_worker(self) -> None:
        with later(minutes=3):
            told = self.health()
            self.assertEqual((told[""], told["worker"]), ("unwell", "unwell"))
            self.assertIn("The worker was last heard 3 min ago", self.words()[0])
        SignOfLife.objects.all().delete()
        self.assertIn("The worker has never been heard", self.words()[0])

    def test_work_that_waits_for_long(self) -> None:
        clean_up.enqueue()
        self.assertEqual(self.health()["queue"], "well")
        with later(hours=1):
            show_life("worker")
            self.assertEqual(self.health()["queue"], "unwell")
            self.assertIn("1 tasks wait, the oldest for 60 min.", self.words())

    def test_a_clock_that_went_back(self) -> None:
        show_life("worker", timezone.now() + timedelta(hours=5))
        told = self.health()
        self.assertEqual((told["clock"], told["worker"]), ("unwell", "well"))
        self.assertIn("went back by 5 h", self.words()[0])
        self.assertTrue(is_due("worker", timedelta(days=1)))

    def test_a_disk_that_is_nearly_full(self) -> None:
        for total, free, state in ((500, 0.5, "unwell"), (500, 9, "unwell"), (500, 11, "well"), (20, 2, "well")):
            usage = Usage(total * _GIB, 0, int(free * _GIB))
            with self.subTest(total=total, free=free), mock.patch("shutil.disk_usage", return_value=usage):
                self.assertEqual(self.health()["disk"], state)

    def test_a_database_that_is_away_is_failing_and_so_is_one_of_another_version(self) -> None:
        with mock.patch("nomothet.server.upkeep.health.connection.cursor", side_effect=OperationalError("away")):
            self.assertEqual(self.health(503)["database"], "failing")
        for field in ("missing", "unknown"):
            state = mock.Mock(missing=(), unknown=())
            setattr(state, field, ("reviews 9999_later",))
            with self.subTest(field), mock.patch.object(health_module, "schema_state", return_value=state):
                self.assertEqual(self.health(503)["schema"], "failing")

    def test_backups_on_the_disk_of_the_data_are_remarked_on_without_harm(self) -> None:
        with TemporaryDirectory() as folder:
            with override_settings(VAR=Path(folder), BACKUPS=Path(folder)):
                self.assertEqual(self.health()["backups"], "well")
                self.assertIn(f"Backups lie in {folder}, on the disk of the data", " ".join(self.words()))
            # The kernel's own file system is never the one of a folder.
            with override_settings(VAR=Path(folder), BACKUPS=Path("/proc")):
                self.look_anew()
                self.assertNotIn("on the disk of the data", " ".join(self.words()))

    def test_backups_that_are_not_made(self) -> None:
        self.assertEqual(self.health()["backups"], "well")
        with later(hours=49):
            show_life("worker")
            self.assertEqual(self.health()["backups"], "unwell")
            self.assertIn("No backup has been made yet.", self.words())
            made = Backup.objects.create(at=timezone.now(), folder="/kept", name="nomothet-a", size=5)
            self.assertEqual(self.health()["backups"], "well")
            Backup.objects.create(at=timezone.now() + timedelta(hours=1), folder="/kept", problem="No room.")
            self.assertIn("The last backup failed: No room.", self.words())
            told = Browser("admin").json("/api/installation")
            self.assertEqual([one["name"] for one in told["backups"]], ["", made.name])
        with later(hours=49), override_settings(BACKUP_EVERY_H=0):
            show_life("worker")
            Backup.objects.all().delete()
            self.assertEqual(self.health()["backups"], "well")

    def test_who_asks_often_costs_nothing_while_all_is_well(self) -> None:
        Browser().get("/health")
        with self.assertNumQueries(0):
            Browser().get("/health")


class ForAdmins(HealthTest):
    def test_others_are_told_no_figures(self) -> None:
        for path in ("/api/installation", "/api/metrics"):
            for role, status in (("reader", 403), ("tester", 403), ("editor", 403), (None, 401)):
                with self.subTest(path=path, role=role):
                    self.problem(Browser(role).get(path), status)

    def test_metrics_are_openmetrics_text_by_an_admins_token(self) -> None:
        self.fill(0, [60, 61])
        _, secret = make_token(User.objects.get(username="admin"), None, "collector", Token.Scope.READING)
        headers = {"Authorization": f"Bearer {secret}", "Accept": "application/openmetrics-text; version=1.0.0"}
        answer = self.client.get("/api/metrics", headers=headers)
        self.assertEqual(answer.status_code, 200)
        self.assertTrue(answer.headers["Content-Type"].startswith("application/openmetrics-text"))
        samples = {
            (sample.name, *sample.labels.values()): sample.value
            for family in text_string_to_metric_families(answer.content.decode())
            for sample in family.samples
        }
        self.assertEqual(samples["nomothet_part_well", "database"], 1)
        self.assertEqual(samples["nomothet_passes", "completed"], 2)
        self.assertEqual(samples["nomothet_docket_entries", "done"], 2)
        self.assertGreater(samples["nomothet_disk_free_bytes",], 0)


class Interrupted(SceneTest):
    """What a worker was killed over."""

    def running(self, workers: int) -> "DBTaskResult[..., object]":
        clean_up.enqueue()
        one = DBTaskResult.objects.latest("enqueued_at")
        for _ in range(workers):
            one.claim("a worker")
        return one

    def test_it_is_begun_again_and_given_up_when_it_ends_every_worker(self) -> None:
        once, always = self.running(1), self.running(3)
        self.assertEqual(resume_interrupted(), 1)
        once.refresh_from_db()
        always.refresh_from_db()
        self.assertEqual((once.status, always.status), (TaskResultStatus.READY, TaskResultStatus.FAILED))

    def test_what_a_living_worker_has_in_hand_stays_its_own(self) -> None:
        first, second = Place(), Place()
        self.addCleanup(second.free)
        self.assertEqual((first.number, second.number), (1, 2))
        held = self.running(0)
        held.claim(first.worker_id)
        self.assertEqual(resume_interrupted(second.is_alive), 0)
        self.assertTrue(first.hold())
        first.free()
        self.assertEqual(resume_interrupted(second.is_alive), 1)

    def test_a_new_worker_in_the_place_of_a_dead_one_takes_up_its_work(self) -> None:
        dead = Place()
        held = self.running(0)
        held.claim(dead.worker_id)
        dead.free()
        place = Place()
        self.addCleanup(place.free)
        self.assertEqual(place.number, dead.number)
        self.assertEqual(resume_interrupted(place.is_alive), 1)
        self.assertFalse(place.is_alive("a worker"))
        self.assertTrue(place.is_alive(place.worker_id))

    def test_a_place_that_was_lost_is_taken_again_unless_another_has_it(self) -> None:
        place = Place()
        self.addCleanup(place.free)
        with connection.cursor() as cursor:
            cursor.execute("SELECT IS_USED_LOCK(CONCAT(DATABASE(), ' worker 1'))")
            line = cursor.fetchone()[0]
            cursor.execute(f"KILL {int(line)}")
        self.assertTrue(place.hold())
        place.free()
        other = Place()
        self.addCleanup(other.free)
        self.assertFalse(place.hold())

    def test_there_are_only_so_many_places(self) -> None:
        for _ in range(PLACES):
            self.addCleanup(Place().free)
        with self.assertRaises(NoPlace):
            Place()

    def test_what_every_worker_begins_with_waits_once_however_often_it_is_started(self) -> None:
        for _ in range(3):
            enqueue_once(clean_up)
        self.assertEqual(DBTaskResult.objects.count(), 1)
        DBTaskResult.objects.get().claim("a worker")
        enqueue_once(clean_up)
        self.assertEqual(DBTaskResult.objects.count(), 2)

    def job(self) -> ImportJob:
        items = [
            {"name": name, "state": "waiting", "problem": "", "test": 1, "column": 1, "columns": []} for name in "ab"
        ]
        return ImportJob.objects.create(review=self.scene.review, name="two", state=JobState.RUNNING, items=items)

    def test_an_import_goes_on_once_and_without_the_file_that_ends_every_worker(self) -> None:
        job = self.job()
        for _ in range(2):
            take_up_imports()
        waiting = DBTaskResult.objects.filter(task_path=run_import.module_path)
        self.assertEqual(waiting.count(), 1)
        one = waiting.get()
        for _ in range(3):
            one.claim("a worker")
        resume_interrupted()
        take_up_imports()
        job.refresh_from_db()
        self.assertEqual([item["state"] for item in job.items], ["failed", "waiting"])
        self.assertEqual(waiting.filter(status=TaskResultStatus.READY).count(), 1)


class Cleaning(SceneTest):
    def test_what_is_over_goes_and_everything_else_stays(self) -> None:
        user = User.objects.get(username="admin")
        now = timezone.now()
        for at, key in ((now - timedelta(days=2), "old"), (now + timedelta(hours=2), "new")):
            Visit.objects.create(session_key=key, expire_date=at, user=user)
        for days in (100, 10):
            at = now - timedelta(days=days)
            OneTimeLink.objects.create(user=user, purpose="reset", digest=f"{days}", expires_at=at)
        Change.objects.all().delete()
        Head.objects.update_or_create(pk=1, defaults={"number": 50_000})
        for number in (1, 40_000):
            Change.objects.create(number=number, kind="old")
        Change.objects.update(at=now - timedelta(days=40))
        Change.objects.create(number=2, kind="young")
        done = [DBTaskResult.objects.get(pk=clean_up.enqueue().id) for _ in range(2)]
        for one, days in zip(done, (8, 1), strict=True):
            one.status, one.finished_at = TaskResultStatus.SUCCESSFUL, now - timedelta(days=days)
            one.save()
        gone = clean()
        self.assertEqual(gone, {"sessions": 1, "links": 1, "changes": 1, "tasks": 1})
        self.assertEqual(set(Visit.objects.values_list("session_key", flat=True)), {"new"})
        self.assertEqual(set(Change.objects.values_list("number", flat=True)), {2, 40_000})
        self.assertEqual(clean(), {})

    def test_abandoned_imports_go_with_their_files_and_those_under_way_stay(self) -> None:
        with TemporaryDirectory() as name, override_settings(IMPORTS=Path(name)):
            jobs = {}
            for label, state in (("abandoned", JobState.OPEN), ("queued", JobState.QUEUED), ("young", JobState.OPEN)):
                jobs[label] = ImportJob.objects.create(review=self.scene.review, name=label, state=state)
            old = timezone.now() - timedelta(days=31)
            ImportJob.objects.exclude(name="young").update(at=old)
            stray, fresh = Path(name) / str(uuid.uuid4()), Path(name) / str(uuid.uuid4())
            kept = Path(name) / "notes"
            folders = {label: Path(name) / str(job.pk) for label, job in jobs.items()}
            for folder in (stray, fresh, kept, *folders.values()):
                folder.mkdir()
                (folder / "upload").write_text("1")
                if folder != fresh:
                    os.utime(folder, (old.timestamp(), old.timestamp()))
            self.assertEqual(clean(), {"imports": 1, "files": 1})
            there = {folder.name for folder in Path(name).iterdir()}
            self.assertEqual(there, {fresh.name, "notes", folders["queued"].name, folders["young"].name})
            jobs["abandoned"].refresh_from_db()
            self.assertEqual(jobs["abandoned"].state, JobState.CANCELLED)
