"""Private databases: two on one machine, made at the same moment, and closed to everybody else."""

import os
import pwd
import tempfile
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from unittest.mock import patch

import MySQLdb

from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.errors import LaunchError
from nomothet.server.launch.ports import free_port

PASSWORD = "reed-lantern-56"


class PrivateDatabases(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        self.addCleanup(folder.cleanup)
        Path(folder.name).chmod(0o755)
        self.databases = [PrivateDatabase(Path(folder.name) / name, free_port(), PASSWORD) for name in ("a", "b")]

    def test_neither_clears_away_what_the_other_has_under_way(self) -> None:
        # A child ends with the thread that began it, so the threads stay until the databases are stopped.
        threads = ThreadPoolExecutor(2)
        self.addCleanup(threads.shutdown)
        started = [threads.submit(database.start) for database in self.databases]
        for database in self.databases:
            self.addCleanup(database.stop)
        for one in started:
            one.result()
        used = [self.temporary_folder(database) for database in self.databases]
        self.assertEqual(used, [str(database.folder / "tmp") for database in self.databases])

    def test_only_who_runs_it_and_the_application_get_in_and_nobody_reaches_its_files(self) -> None:
        database = self.databases[0]
        database.start()
        self.addCleanup(database.stop)
        self.assertEqual(database.folder.stat().st_mode & 0o777, 0o700)
        for user in ("root", "nomothet", ""):
            for password in ("", "guess"):
                with self.subTest(user=user, password=password), self.assertRaises(MySQLdb.OperationalError):
                    MySQLdb.connect(host="127.0.0.1", port=database.port, user=user, passwd=password)
        cursor = self.connect(database).cursor()
        for statement in ("SELECT * FROM mysql.user", "CREATE DATABASE other", "SELECT LOAD_FILE('/etc/hostname') + 0"):
            with self.subTest(statement):
                try:
                    cursor.execute(statement)
                    self.assertEqual(cursor.fetchall(), ((None,),))
                except MySQLdb.OperationalError as error:
                    self.assertIn("denied", str(error))

    def test_one_whose_account_cannot_be_made_is_not_left_in_the_way_of_the_next_attempt(self) -> None:
        database = self.databases[0]
        with (
            patch.object(database, "_ensure_account", side_effect=LaunchError("it says no")),
            self.assertRaisesRegex(LaunchError, "it says no"),
        ):
            database.start()
        database.start()
        self.addCleanup(database.stop)
        self.connect(database)

    def test_an_installation_whose_root_had_no_password_is_mended(self) -> None:
        database = self.databases[0]
        database.start()
        opened = "ALTER USER 'root'@'localhost' IDENTIFIED BY ''; CREATE USER 'root'@'127.0.0.1' IDENTIFIED BY '';"
        database._say([opened])
        database.stop()
        again = PrivateDatabase(database.folder, free_port(), PASSWORD)
        self.addCleanup(again.stop)
        again.start()
        with self.assertRaises(MySQLdb.OperationalError):
            MySQLdb.connect(host="127.0.0.1", port=again.port, user="root", passwd="")
        self.connect(again)
        self.assertEqual(
            sorted(again._say(["SELECT DISTINCT user FROM mysql.user WHERE user <> 'mariadb.sys';"]).split()),
            sorted({"root", "nomothet", pwd.getpwuid(os.geteuid()).pw_name}),
        )

    def connect(self, database: PrivateDatabase) -> "MySQLdb.Connection":
        connection = MySQLdb.connect(
            host="127.0.0.1", port=database.port, user="nomothet", passwd=PASSWORD, db="nomothet"
        )
        self.addCleanup(connection.close)
        return connection

    def temporary_folder(self, database: PrivateDatabase) -> str:
        cursor = self.connect(database).cursor()
        cursor.execute("SELECT @@tmpdir")
        return str(cursor.fetchone()[0])
