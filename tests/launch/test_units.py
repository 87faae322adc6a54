"""The units for a service manager leave their programs little of the machine."""

import re
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

from tests.launch.installation import PROJECT

UNITS = sorted((PROJECT / "deploy").glob("*.service"))


class Units(unittest.TestCase):
    def test_each_runs_as_an_account_of_its_own_that_gains_no_rights(self) -> None:
        self.assertEqual(len(UNITS), 4)
        for unit in UNITS:
            with self.subTest(unit.name):
                lines = unit.read_text().splitlines()
                users = {line.partition("=")[2] for line in lines if line.startswith("User=")}
                self.assertEqual(users, {"nomothet-bench" if "bench" in unit.name else "nomothet"})
                for line in ("NoNewPrivileges=yes", "ProtectSystem=strict", "CapabilityBoundingSet=", "UMask=0077"):
                    self.assertIn(line, lines)

    @unittest.skipUnless(shutil.which("systemd-analyze"), "systemd is not installed here")
    def test_systemd_knows_every_line_and_finds_them_little_exposed(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            for unit in UNITS:
                with self.subTest(unit.name):
                    # The programs are not installed where the units say.
                    text = re.sub(r"^ExecStart=.*$", "ExecStart=/bin/true", unit.read_text(), flags=re.M)
                    copied = Path(name) / unit.name
                    copied.write_text(text)
                    command = ["systemd-analyze", "verify", "--man=no", str(copied)]
                    found = subprocess.run(command, capture_output=True, text=True, check=False)
                    said = [line for line in found.stderr.splitlines() if unit.name in line]
                    self.assertEqual(said, [])
                    most = "40" if "bench" in unit.name else "20"
                    command = ["systemd-analyze", "security", "--offline=true", f"--threshold={most}", str(copied)]
                    found = subprocess.run(command, capture_output=True, text=True, check=False)
                    self.assertEqual(found.returncode, 0, found.stdout[-300:])
