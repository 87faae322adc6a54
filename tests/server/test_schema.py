"""Models and migrations say the same."""

from django.core.management import call_command
from django.test import TestCase


class Migrations(TestCase):
    def test_no_model_has_changed_without_its_migration(self) -> None:
        call_command("makemigrations", check=True, dry_run=True, verbosity=0)
