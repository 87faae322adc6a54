"""The front end's functions and parts without a browser, run by Node's own test runner; the files are in web/tests."""

import subprocess
import tempfile
import unittest
from pathlib import Path

WEB = Path(__file__).resolve().parents[2] / "web"


class WithoutABrowser(unittest.TestCase):
    def test_every_file_of_web_tests_passes(self) -> None:
        files = sorted(str(path) for path in (WEB / "tests").glob("*.test.ts*"))
        self.assertGreater(len(files), 2)
        # Among the packages, where what stays outside the bundles is found.
        with tempfile.TemporaryDirectory(dir=WEB / "node_modules") as folder:
            bundle = ["node_modules/.bin/rolldown", *files, "--platform", "node", "--format", "esm", "-d", folder,
                      "--module-types", ".css=empty", "--tsconfig", "tsconfig.json",
                      "--external", "typescript"]  # fmt: skip
            built = subprocess.run(bundle, cwd=WEB, capture_output=True, text=True, timeout=120, check=False)
            self.assertEqual(built.returncode, 0, built.stdout + built.stderr)
            made = sorted(map(str, Path(folder).glob("*.test.js")))
            self.assertEqual(len(made), len(files))
            ran = subprocess.run(
                ["node", "--test", *made], cwd=WEB, capture_output=True, text=True, timeout=120, check=False
            )
            self.assertEqual(ran.returncode, 0, ran.stdout + ran.stderr)
            self.assertRegex(ran.stdout, r"pass [1-9]")
