"""Running the command line within the test's own process, with what it says caught."""

import contextlib
import io
import tempfile
import unittest
from dataclasses import dataclass
from pathlib import Path

from nomothet.cli.main import main


@dataclass(frozen=True)
class Done:
    returncode: int
    stdout: str
    stderr: str


class CommandLine(unittest.TestCase):
    """A folder for files, and the command."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, name: str, text: str) -> str:
        path = self.folder / name
        path.write_text(text)
        return str(path)

    def run_command(self, *arguments: str) -> Done:
        """An error that is not told as a message fails the test."""
        said, complained = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(said), contextlib.redirect_stderr(complained):
            try:
                status = main(arguments)
            except SystemExit as ended:
                status = ended.code if isinstance(ended.code, int) else 1
        return Done(status, said.getvalue(), complained.getvalue())
