"""Backups: made while people work, restored elsewhere, checked, encrypted, let go of."""

import hashlib
import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import zstandard

from nomothet.server.launch.backups.errors import BackupError
from nomothet.server.launch.backups.restoring import restore
from nomothet.server.launch.backups.retention import let_go
from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.ports import free_port
from tests.launch.installation import PROJECT, WithDatabase, command, environment_of, folder_for, run_script

_MAKE = """
from tests.server.base import BenchClient, Scene, steady
scene = Scene()
scene.owe(count=3)
for at in range(3):
    BenchClient(scene.token).deliver(steady(60, frames=400, seed=at))
"""
# Every change raises one number and adds a row of that number, so a state between two changes is told at once.
_WORK = """
from django.db import transaction
from nomothet.server.feed.commands import announce
while True:
    with transaction.atomic():
        announce("busy")
"""
_ALL = """
import hashlib, json
from django.db import connection
with connection.cursor() as cursor:
    told = {}
    for table in connection.introspection.table_names():
        cursor.execute(f"SELECT * FROM `{table}`")
        told[table] = hashlib.sha256(repr(sorted(map(repr, cursor.fetchall()))).encode()).hexdigest()
print(json.dumps(told))
"""
_BUSY = """
from nomothet.server.feed.models import Change, Head
print(Head.objects.get().number, Change.objects.order_by("-number").first().number, Change.objects.count())
"""
PHRASE = {"NOMOTHET_BACKUP_PASSPHRASE": "nine grey herons at the weir"}


class Backups(WithDatabase):
    made_by = _MAKE

    def back_up(self, **extra: str) -> Path:
        done = self.server("backup", str(self.var / "kept"), **extra)
        self.assertEqual(done.returncode, 0, done.stderr)
        return Path(done.stdout.splitlines()[0])

    def restored(self, backup: Path, passphrase: str = "") -> tuple[Path, PrivateDatabase]:
        """Restore somewhere else and start its database; gives the folder too."""
        var = folder_for(type(self))
        restore(backup, var, free_port(), passphrase)
        return var, self.started(var)

    def test_what_is_restored_elsewhere_is_byte_for_byte_what_was_kept(self) -> None:
        waiting = self.var / "imports" / "0a" / "upload"
        waiting.parent.mkdir(parents=True)
        waiting.write_bytes(b"frame_ms\n16.7\n" * 1000)
        before = self.script(_ALL)
        for phrase in ("", PHRASE["NOMOTHET_BACKUP_PASSPHRASE"]):
            with self.subTest(encrypted=bool(phrase)):
                backup = self.back_up(**(PHRASE if phrase else {}))
                var, database = self.restored(backup, phrase)
                after = json.loads(run_script(_ALL, var, database.port))
                # The list of backups is written when one is done.
                expected = json.loads(before)
                for told in (after, expected):
                    told.pop("upkeep_backup")
                self.assertEqual(after, expected)
                self.assertEqual((var / "imports" / "0a" / "upload").read_bytes(), waiting.read_bytes())
                self.assertEqual((var / "secrets.json").read_bytes(), (self.var / "secrets.json").read_bytes())
                self.assertEqual((var / "secrets.json").stat().st_mode & 0o777, 0o600)

    def test_a_backup_made_while_people_work_is_of_one_moment(self) -> None:
        working = [
            subprocess.Popen(
                [sys.executable, "-c", f"import django; django.setup()\n{_WORK}"],
                env=environment_of(self.var, self.database.port), cwd=PROJECT, stderr=subprocess.DEVNULL,
            )
            for _ in range(3)
        ]  # fmt: skip
        try:
            while int(self.script(_BUSY).split()[0]) < 200:
                pass
            backup = self.back_up()
        finally:
            for process in working:
                process.kill()
                process.wait()
        var, database = self.restored(backup)
        head, last, count = map(int, run_script(_BUSY, var, database.port).split())
        self.assertGreaterEqual(head, 200)
        self.assertEqual((last, count), (head, head))

    def test_an_encrypted_backup_shows_nothing_without_its_passphrase(self) -> None:
        backup = self.back_up(**PHRASE)
        secret = json.loads((self.var / "secrets.json").read_text())["secret_key"].encode()
        for path in backup.iterdir():
            self.assertNotIn(secret, path.read_bytes(), path.name)
        refused = self.server("check", str(backup))
        self.assertEqual(refused.returncode, 1)
        self.assertIn("NOMOTHET_BACKUP_PASSPHRASE", refused.stderr)
        refused = self.server("check", str(backup), NOMOTHET_BACKUP_PASSPHRASE="another one")
        self.assertIn("does not open", refused.stderr)

    def test_check_restores_hashes_and_computes_anew_and_tells_what_is_wrong(self) -> None:
        good = self.server("check", str(self.back_up()))
        self.assertEqual(good.returncode, 0, good.stdout + good.stderr)
        self.assertRegex(good.stdout, r"3 captures are as they came in; [1-9]\d* figures of 3 passes")
        self.assertEqual(self.script(_CHECKED).split(), ["True", "[]"])
        var, database = self.restored(self.back_up())
        run_script(_SPOIL, var, database.port)
        spoilt = command(["backup"], var, database.port).stdout.splitlines()[0]
        bad = command(["check", spoilt], var, database.port)
        self.assertEqual(bad.returncode, 1)
        self.assertIn("is not as it came in", bad.stdout)
        self.assertIn("gives other figures than those on record", bad.stdout)

    def test_a_backup_that_was_altered_is_refused_by_its_file(self) -> None:
        backup = self.back_up()
        dump = backup / "database.sql.zst"
        content = dump.read_bytes()
        dump.write_bytes(content[:-1] + bytes([content[-1] ^ 1]))
        with self.assertRaisesRegex(BackupError, "database.sql.zst in .* is not as it was written"):
            restore(backup, folder_for(type(self)), free_port())
        dump.unlink()
        with self.assertRaisesRegex(BackupError, "database.sql.zst is missing"):
            restore(backup, folder_for(type(self)), free_port())
        listed = json.loads((backup / "backup.json").read_text())
        listed["files"][0]["name"] = "../secrets.json"
        (backup / "backup.json").write_text(json.dumps(listed))
        with self.assertRaisesRegex(BackupError, "outside the backup"):
            restore(backup, folder_for(type(self)), free_port())

    def test_restoring_over_an_installation_sets_it_aside_and_puts_it_back_when_it_fails(self) -> None:
        backup = self.back_up()
        var, database = self.restored(backup)
        run_script(_RENAME, var, database.port)
        database.stop()
        self.replace(backup, "database.sql.zst", zstandard.compress(b"SELECT no_such_thing;"))
        failed = command(["restore", str(backup)], var, database.port)
        self.assertEqual(failed.returncode, 1)
        self.assertIn("does not take the backup", failed.stderr)
        self.assertFalse((var / "before-restoring-1").exists())
        done = command(["restore", str(self.back_up())], var, database.port)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertTrue((var / "before-restoring-1" / "database").is_dir())
        database.start()
        self.assertNotIn("Later", run_script(_NAMES, var, database.port))

    def test_the_folder_of_all_backups_keeps_its_rights_and_a_backup_is_its_owners(self) -> None:
        shared = self.var / "shared"
        shared.mkdir()
        shared.chmod(0o755)
        done = self.server("backup", str(shared))
        self.assertEqual(done.returncode, 0, done.stderr)
        (backup,) = shared.iterdir()
        self.assertEqual((shared.stat().st_mode & 0o777, backup.stat().st_mode & 0o777), (0o755, 0o700))

    def test_a_running_installation_is_not_restored_over(self) -> None:
        backup = self.back_up()
        done = self.server("restore", str(backup))
        self.assertEqual(done.returncode, 1)
        self.assertIn("Stop what uses it", done.stderr)

    def test_a_folder_that_takes_nothing_is_said_and_leaves_nothing_behind(self) -> None:
        blocked = self.var / "a-file"
        blocked.write_text("in the way")
        done = self.server("backup", str(blocked))
        self.assertEqual(done.returncode, 1)
        self.assertIn("could not be written", done.stderr)
        told = self.script("from nomothet.server.upkeep.models import Backup; print(Backup.objects.first().problem)")
        self.assertIn("could not be written", told)

    @staticmethod
    def replace(backup: Path, name: str, content: bytes) -> None:
        """Put another file into a backup, with its list saying so."""
        (backup / name).write_bytes(content)
        listed = json.loads((backup / "backup.json").read_text())
        for file in listed["files"]:
            if file["name"] == name:
                file |= {"size": len(content), "sha256": hashlib.sha256(content).hexdigest()}
        (backup / "backup.json").write_text(json.dumps(listed))


_CHECKED = """
from nomothet.server.upkeep.models import Backup
one = Backup.objects.first(); print(one.checked_at is not None, repr(one.found.split()))
"""
_RENAME = "from nomothet.server.people.models import User; User.objects.update(display_name='Later')"
_NAMES = "from nomothet.server.people.models import User; print(list(User.objects.values_list('display_name')))"
_SPOIL = """
from nomothet.server.passes.models import Figure, Series
one = Series.objects.first(); one.blob = bytes(one.blob)[:-1] + b"x"; one.save()
Figure.objects.filter(metric="average_fps").update(value=1.0)
"""


class Retention(unittest.TestCase):
    def test_the_newest_stay_and_so_do_those_with_a_label_and_files_of_others(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            for day in range(1, 6):
                (folder / f"nomothet-2026110{day}T000000.000000Z").mkdir()
            (folder / "nomothet-20260101T000000.000000Z-before-changes").mkdir()
            (folder / "notes").mkdir()
            gone = let_go(folder, 2)
            self.assertEqual([path.name[9:17] for path in gone], ["20261101", "20261102", "20261103"])
            self.assertEqual(len(list(folder.iterdir())), 4)
            self.assertEqual(let_go(folder, 0), [folder / "nomothet-20261104T000000.000000Z"])
