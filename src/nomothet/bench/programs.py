"""Which program a command starts: the hash of its executable, and of a script that is given to an interpreter."""

import hashlib
import shutil
from pathlib import Path

from nomothet.bench.command_plan import CommandPlan

_PIECE = 1 << 20


def program_digest(plan: CommandPlan) -> str:
    """A fingerprint of what will run, empty where it cannot be told.

    It covers the executable and the first word after it that names a file: a script, or what it works on. Libraries,
    and modules that an interpreter finds by itself, are not covered.
    """
    base = plan.directory or Path("/")
    executable = shutil.which(plan.argv[0]) or shutil.which(str(base / plan.argv[0]))
    if executable is None:
        return ""
    # Without a directory it runs in a new, empty one, where a relative name leads to no file.
    words = [word for word in plan.argv[1:] if plan.directory or Path(word).is_absolute()]
    files = [Path(executable), *[base / word for word in words if _is_file(base / word)][:1]]
    digest = hashlib.sha256()
    for path in files:
        digest.update(_hash_of(path))
    return digest.hexdigest()


def _is_file(path: Path) -> bool:
    try:
        return path.is_file()
    except OSError:
        # A word can be longer than any name.
        return False


def _hash_of(path: Path) -> bytes:
    found = hashlib.sha256()
    try:
        with path.open("rb") as file:
            while piece := file.read(_PIECE):
                found.update(piece)
    except OSError:
        return b"unreadable"
    return found.digest()
