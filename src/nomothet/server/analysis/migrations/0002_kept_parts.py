from typing import Any

from django.core.management import call_command
from django.db import migrations


def make_table(apps: Any, schema_editor: Any) -> None:
    """The table of Django's database cache."""
    call_command("createcachetable", "kept_parts", database=schema_editor.connection.alias, verbosity=0)


class Migration(migrations.Migration):
    dependencies = [("analysis", "0001_evidence")]
    operations = [migrations.RunPython(make_table, migrations.RunPython.noop)]
