"""Bringing the database's tables up to date, with a backup of before."""

from typing import TYPE_CHECKING

from nomothet.server.launch.errors import LaunchError

if TYPE_CHECKING:
    from nomothet.server.upkeep.schema_state import SchemaState


def migrate() -> None:
    """Apply the migrations that are missing. A database with data is kept in a backup first; one of a newer version of
    Nomothet is not touched.

    Raises
    ------
    LaunchError
    """
    from django.utils import timezone

    from nomothet.server.upkeep.life import last_sign, show_life
    from nomothet.server.upkeep.schema_state import schema_state

    state = schema_state()
    if state.unknown:
        raise LaunchError(
            f"The database is of a newer version of Nomothet (it has {state.unknown[0]}, which this one does not "
            "know). Nothing was changed. Run that version, or restore a backup that was made before it."
        )
    if state.missing:
        _change_tables(state)
    if last_sign("installed") is None:
        show_life("installed", timezone.now())


def _change_tables(state: "SchemaState") -> None:
    from django.conf import settings
    from django.core.management import call_command

    from nomothet.server.launch.backups.errors import BackupError
    from nomothet.server.launch.backups.making import make_backup

    if state.applied:
        changes = "a change" if len(state.missing) == 1 else f"{len(state.missing)} changes"
        print(f"Making a backup before {changes} of the tables.", flush=True)
        try:
            made = make_backup(settings.BACKUPS, label="before-changes")
        except BackupError as error:
            raise LaunchError(
                f"The tables have to be changed, and no backup could be made first: {error} Nothing was changed."
            ) from None
        print(f"It is {made.folder}.", flush=True)
    call_command("migrate", verbosity=0, interactive=False)
