"""Secrets of this installation, made at the first start and kept in var/secrets.json, readable by its owner only."""

import json
import os
import secrets
from pathlib import Path
from typing import Any

_WORDS = """
amber basin cedar delta ember fjord grove heath inlet jetty knoll lagoon meadow nettle orchard pebble quarry ridge sedge
tundra upland valley willow yarrow
""".split()


def ensure_secrets(var: Path) -> str:
    """The secrets, made where they are missing. Returns the database's password."""
    path = var / "secrets.json"
    kept = json.loads(path.read_text()) if path.exists() else {}
    kept.setdefault("secret_key", secrets.token_urlsafe(48))
    kept.setdefault("database_password", secrets.token_urlsafe(24))
    # Earlier versions kept the passwords of the demo's people here.
    kept.pop("demo_sign_ins", None)
    var.mkdir(parents=True, exist_ok=True)
    write(var, kept)
    return str(kept["database_password"])


def renewed(var: Path) -> dict[str, Any]:
    """New secrets, not written yet; the key before stays known, for what is sealed with it."""
    before = json.loads((var / "secrets.json").read_text())
    return {
        **before,
        "secret_key": secrets.token_urlsafe(48),
        "database_password": secrets.token_urlsafe(24),
        "earlier_keys": [before["secret_key"]],
    }


def write(var: Path, kept: dict[str, Any]) -> None:
    """Keep secrets for their owner alone; the file is whole at every moment. Where it is a link, as to a memory disk on
    which a vault's agent writes, what it leads to is written."""
    path = (var / "secrets.json").resolve()
    beside = path.with_name("secrets.json.new")
    with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
        json.dump(kept, file, indent=2)
    beside.replace(path)


def passphrase() -> str:
    """Four words and four digits: about 31 bits, meant for a demo on loopback."""
    return "-".join([*(secrets.choice(_WORDS) for _ in range(4)), f"{secrets.randbelow(10_000):04d}"])
