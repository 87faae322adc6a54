"""A database with all tables and nothing in them, made once for all test runs until a migration changes."""

import fcntl
import hashlib
import os
import shutil
import subprocess
import sys
from pathlib import Path

PROJECT = Path(__file__).resolve().parents[1]
PARTS = ("database", "secrets.json")
_MADE_OF = ("src/nomothet/server/*/migrations/*.py", "src/nomothet/server/launch/database.py", "requirements/test.lock")


def template(var: Path) -> Path:
    """The folder of the template, made where it is missing or older than what it is made of."""
    var.mkdir(parents=True, exist_ok=True)
    with (var / "template.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        place = var / f"template-{_digest()}"
        if not (place / "ready").exists():
            for old in var.glob("template-*"):
                shutil.rmtree(old)
            _make(place)
            (place / "ready").touch()
    return place


def copy(place: Path, var: Path) -> None:
    """Put the template's database and secrets into a folder, with owners and times."""
    for part in PARTS:
        subprocess.run(["cp", "-a", place / part, var / part], check=True)


def _digest() -> str:
    found = hashlib.sha256()
    for pattern in _MADE_OF:
        for path in sorted(PROJECT.glob(pattern)):
            found.update(str(path.relative_to(PROJECT)).encode() + path.read_bytes())
    return found.hexdigest()[:16]


def _make(place: Path) -> None:
    """The tables as `nomothet`, which an installation has, and as `test_nomothet`, which Django's runner asks for."""
    from nomothet.server.launch.database import PrivateDatabase
    from nomothet.server.launch.ports import free_port
    from nomothet.server.launch.secrets import ensure_secrets

    place.mkdir()
    place.chmod(0o755)
    database = PrivateDatabase(place / "database", free_port(), ensure_secrets(place), for_tests=True)
    database.start()
    try:
        environment = {
            **os.environ,
            "NOMOTHET_VAR": str(place),
            "NOMOTHET_DATABASE_PORT": str(database.port),
            "DJANGO_SETTINGS_MODULE": "nomothet.server.settings",
        }
        migrating = [sys.executable, "-m", "django", "migrate", "--verbosity", "0"]
        subprocess.run(migrating, env=environment, cwd=PROJECT, check=True)
        admin = database.client("nomothet")
        made = "CREATE DATABASE test_nomothet CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"
        subprocess.run([*admin, "-e", made], check=True)
        dumping = ["mariadb-dump", *[word for word in admin[1:] if word != "--binary-mode"]]
        dump = subprocess.run(dumping, capture_output=True, check=True)
        subprocess.run(database.client("test_nomothet"), input=dump.stdout, check=True)
    finally:
        database.stop()
