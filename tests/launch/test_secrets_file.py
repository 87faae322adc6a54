"""The file of an installation's secrets."""

import json
import tempfile
import unittest
from pathlib import Path

from nomothet.server.launch.secrets import ensure_secrets, renewed, write


class SecretsFile(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.var = Path(folder.name) / "var"
        self.var.mkdir()

    def test_it_is_made_once_for_its_owner_alone(self) -> None:
        first = ensure_secrets(self.var)
        self.assertEqual(ensure_secrets(self.var), first)
        self.assertEqual((self.var / "secrets.json").stat().st_mode & 0o777, 0o600)

    def test_a_link_stays_one_and_what_it_leads_to_is_read_and_renewed(self) -> None:
        vault = self.var.parent / "vault.json"
        vault.write_text(json.dumps({"secret_key": "k" * 50, "database_password": "told by the vault"}))
        (self.var / "secrets.json").symlink_to(vault)
        self.assertEqual(ensure_secrets(self.var), "told by the vault")
        write(self.var, renewed(self.var))
        self.assertTrue((self.var / "secrets.json").is_symlink())
        self.assertEqual(json.loads(vault.read_text())["earlier_keys"], ["k" * 50])
        self.assertEqual(vault.stat().st_mode & 0o777, 0o600)
