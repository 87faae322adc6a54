"""Two private databases on one machine, made at the same moment."""

import tempfile
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import MySQLdb

from nomothet.server.launch.database import PrivateDatabase
from nomothet.server.launch.ports import free_port

PASSWORD = "reed-lantern-56"


class TwoAtOnce(unittest.TestCase):
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

    def temporary_folder(self, database: PrivateDatabase) -> str:
        connection = MySQLdb.connect(
            host="127.0.0.1", port=database.port, user="nomothet", passwd=PASSWORD, db="nomothet"
        )
        self.addCleanup(connection.close)
        cursor = connection.cursor()
        cursor.execute("SELECT @@tmpdir")
        return str(cursor.fetchone()[0])
