"""Whether the database's tables are those that this version of the code works with."""

from dataclasses import dataclass

from django.db import connection
from django.db.migrations.loader import MigrationLoader


@dataclass(frozen=True)
class SchemaState:
    """Migrations by name: `missing` in the database, `unknown` to the code, of apps that are ours; and how many were
    applied."""

    applied: int
    missing: tuple[str, ...]
    unknown: tuple[str, ...]


def schema_state() -> SchemaState:
    """Compare what was applied to the database with what the code has."""
    loader = MigrationLoader(connection, ignore_no_migrations=True)
    applied, known = set(loader.applied_migrations), set(loader.disk_migrations)
    ours = {app for app, _ in known}
    missing = sorted(f"{app} {name}" for app, name in known - applied)
    unknown = sorted(f"{app} {name}" for app, name in applied - known if app in ours)
    return SchemaState(len(applied), tuple(missing), tuple(unknown))
