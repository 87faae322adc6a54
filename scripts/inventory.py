#!/usr/bin/env python3
"""Writes docs/inventory.json: every package that a running installation is made of, as the lock files say.

The format is CycloneDX 1.5 (https://cyclonedx.org/docs/1.5/json/), which tools that look for known flaws read. Packages
of Debian, such as the database, are not in the lock files and not in here. With --check, says whether it is current.
"""

import argparse
import json
import re
import sys
from base64 import b64decode
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from urllib.parse import quote

PROJECT = Path(__file__).resolve().parents[1]
_TO = PROJECT / "docs" / "inventory.json"
_PINNED = re.compile(r"^([A-Za-z0-9._-]+)==(\S+)")


def python_parts(lock: str) -> Iterator[dict[str, Any]]:
    """The packages of a lock file of Python."""
    for line in lock.splitlines():
        if found := _PINNED.match(line):
            name, version = found.groups()
            yield _part(name, version, f"pkg:pypi/{name.lower().replace('_', '-')}@{version}")


def web_parts(lock: str) -> Iterator[dict[str, Any]]:
    """The packages of a lock file of npm that go into the pages."""
    for place, one in json.loads(lock)["packages"].items():
        if not place or one.get("dev"):
            continue
        name = place.rpartition("node_modules/")[2]
        part = _part(name, one["version"], f"pkg:npm/{quote(name, safe='/')}@{one['version']}")
        if "license" in one:
            part["licenses"] = [{"expression": one["license"]}]
        kind, _, digest = one.get("integrity", "").partition("-")
        if kind == "sha512":
            part["hashes"] = [{"alg": "SHA-512", "content": b64decode(digest).hex()}]
        yield part


def _part(name: str, version: str, purl: str) -> dict[str, Any]:
    return {"type": "library", "name": name, "version": version, "purl": purl, "bom-ref": purl}


def inventory() -> str:
    """All of it, as text that is the same for the same lock files."""
    parts = [
        *python_parts((PROJECT / "requirements" / "run.lock").read_text()),
        *web_parts((PROJECT / "web" / "package-lock.json").read_text()),
    ]
    once = {part["purl"]: part for part in parts}
    told = {"bomFormat": "CycloneDX", "specVersion": "1.5", "version": 1, "components": list(once.values())}
    return json.dumps(told, indent=1) + "\n"


def main() -> int:
    """Write it, or say whether it is current; the status is 1 when it is not."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--check", action="store_true")
    if not parser.parse_args().check:
        _TO.write_text(inventory())
    elif not _TO.exists() or _TO.read_text() != inventory():
        print("docs/inventory.json is not what the lock files say; run scripts/inventory.py", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
