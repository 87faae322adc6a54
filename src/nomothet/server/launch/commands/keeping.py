"""Commands about backups."""

import argparse
import os
import signal
import sys
from datetime import UTC, datetime
from pathlib import Path

from nomothet.server.launch.backups.errors import BackupError
from nomothet.server.reading_code import set_up

# In the environment nobody else on the machine reads it; among the arguments everybody could.
_PASSPHRASE = "NOMOTHET_BACKUP_PASSPHRASE"  # noqa: S105
_LONGEST = 500


def add(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Declare the commands."""
    sealed = f"A passphrase in {_PASSPHRASE} encrypts, and opens what is encrypted."
    backup = commands.add_parser("backup", help="keep the installation in a folder, while it runs", epilog=sealed)
    backup.add_argument("folder", type=Path, nargs="?", help="the folder of all backups (default: var/backups)")
    backup.add_argument("--keep", type=int, help="delete the oldest beyond so many")
    backup.set_defaults(run=_backup)
    check = commands.add_parser(
        "check", help="restore a backup into a scratch database and look at what came out", epilog=sealed
    )
    check.add_argument("backup", type=Path)
    check.add_argument("--sample", type=int, default=20, help="passes whose figures are computed anew (default 20)")
    check.set_defaults(run=_check)
    restore = commands.add_parser(
        "restore", help="make this installation, which must not run, that of a backup", epilog=sealed
    )
    restore.add_argument("backup", type=Path)
    restore.set_defaults(run=_restore)


def _backup(arguments: argparse.Namespace) -> None:
    set_up()
    from django.conf import settings

    from nomothet.server.launch.backups.making import make_backup
    from nomothet.server.launch.backups.retention import let_go
    from nomothet.server.upkeep.models import Backup

    # What is half done is taken away when this process is asked to end.
    signal.signal(signal.SIGTERM, lambda _number, _frame: sys.exit("nomothet-server: broken off; nothing was kept"))
    into = (arguments.folder or settings.BACKUPS).absolute()
    at = datetime.now(UTC)
    try:
        made = make_backup(into, _passphrase())
    except BackupError as error:
        Backup.objects.create(at=at, folder=str(into), problem=str(error)[:_LONGEST])
        raise
    Backup.objects.create(
        at=at, folder=str(into), name=made.folder.name, size=made.size, took_s=made.took_s, encrypted=made.encrypted
    )
    print(f"{made.folder}\n{made.size / 1024**2:.1f} MiB in {made.took_s:.1f} s", end="")
    print(", encrypted." if made.encrypted else ", not encrypted: it holds secrets, and its owner alone may read it.")
    if arguments.keep:
        for gone in let_go(into, arguments.keep):
            print(f"deleted {gone.name}")


def _check(arguments: argparse.Namespace) -> int:
    from nomothet.server.launch.backups.checking import check_backup

    found = check_backup(arguments.backup.absolute(), _passphrase(), arguments.sample)
    print(
        f"{found.captures} captures are as they came in; {found.figures} figures of {found.passes} passes were "
        "computed anew."
    )
    for wrong in found.wrong:
        print(f"wrong: {wrong}")
    print("The backup can be restored." if not found.wrong else "The backup can be restored, with these faults.")
    _note_check(arguments.backup.absolute(), found.wrong)
    return 1 if found.wrong else 0


def _note_check(backup: Path, wrong: list[str]) -> None:
    """Tell the installation, where it runs, that its backup was checked."""
    from django.db import DatabaseError

    set_up()
    from nomothet.server.upkeep.models import Backup

    try:
        Backup.objects.filter(folder=str(backup.parent), name=backup.name).update(
            checked_at=datetime.now(UTC), found="; ".join(wrong)[:_LONGEST]
        )
    except DatabaseError:
        print("The installation does not run; its list of backups does not say that this one was checked.")


def _restore(arguments: argparse.Namespace) -> None:
    from nomothet.server.launch.backups.restoring import restore
    from nomothet.server.launch.ports import require_free

    require_free(arguments.database_port, "the database", "--database-port")
    aside = restore(arguments.backup.absolute(), arguments.var, arguments.database_port, _passphrase())
    print(f"Restored into {arguments.var}.")
    if aside is not None:
        print(f"What was there lies in {aside}; delete it when it is not needed any more.")


def _passphrase() -> str:
    return os.environ.get(_PASSPHRASE, "")
