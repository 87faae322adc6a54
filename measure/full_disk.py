#!/usr/bin/env python3
"""The disk of an installation fills up while somebody writes, and has room again; then once more, with the database
killed while it is full. Wanted: words, nothing lost that was answered for, and all well again by itself.

Needs root: the disk is a file system in memory, mounted for this and unmounted afterwards.
"""

import argparse
import json
import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import httpx

from nomothet.server.launch.ports import free_port

PROJECT = Path(__file__).resolve().parents[1]
_MIB = 1 << 20
_GIVEN_UP_S = 150.0
_MAKE = """
import json
from django.conf import settings
from tests.server.base import Browser, Scene
scene = Scene()
cookies = Browser("editor").client.cookies
print(json.dumps({"review": scene.review.pk, "session": cookies[settings.SESSION_COOKIE_NAME].value,
    "csrf": cookies[settings.CSRF_COOKIE_NAME].value}))
"""


class Full:
    """A small disk that is filled."""

    def __init__(self, disk: Path) -> None:
        self._file = disk / "filler"

    def __enter__(self) -> None:
        try:
            with self._file.open("wb") as filler:
                while True:
                    filler.write(b"x" * _MIB)
                    filler.flush()
        except OSError:
            return

    def __exit__(self, *_: object) -> None:
        self._file.unlink()


def main() -> int:
    """Fill, look, and make room; the status is 1 when something is not as wanted."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--megabytes", type=int, default=420)
    arguments = parser.parse_args()
    if os.geteuid() != 0:
        raise SystemExit("only root can mount a small disk")
    with tempfile.TemporaryDirectory() as name:
        subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={arguments.megabytes}m", "tmpfs", name], check=True)
        try:
            return tried(Path(name))
        finally:
            subprocess.run(["umount", "-l", name], check=True)


def tried(disk: Path) -> int:
    disk.chmod(0o755)
    var, port, database_port = disk / "var", free_port(), free_port()
    var.mkdir(mode=0o755)
    environment = {**os.environ, "NOMOTHET_VAR": str(var), "NOMOTHET_DATABASE_PORT": str(database_port),
                   "DJANGO_SETTINGS_MODULE": "nomothet.server.settings"}  # fmt: skip
    launcher = subprocess.Popen(
        [sys.executable, "-m", "nomothet.server.launch", "--without-demo", "--no-benches", "--port", str(port),
         "--database-port", str(database_port)],
        env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    try:
        address = f"http://127.0.0.1:{port}"
        wait_until_well(address)
        script = f"import django; django.setup()\n{_MAKE}"
        done = subprocess.run(
            [sys.executable, "-c", script], env=environment, cwd=PROJECT, capture_output=True, check=True
        )
        made = json.loads(done.stdout.splitlines()[-1])
        cookies = {"sessionid": made["session"], "csrftoken": made["csrf"]}
        headers = {"X-CSRFToken": made["csrf"]}
        with httpx.Client(base_url=address, cookies=cookies, headers=headers, timeout=60) as client:
            return looked(client, f"/api/reviews/{made['review']}/talk", disk, var)
    finally:
        launcher.terminate()
        launcher.wait()


def looked(client: httpx.Client, talk: str, disk: Path, var: Path) -> int:
    taken: list[str] = []

    def write(text: str) -> httpx.Response:
        answer = client.post(talk, json={"about": "review", "text": text})
        if answer.status_code == 201:
            taken.append(text)
        return answer

    with Full(disk):
        answers = [write(f"comment {number} {'x' * 3000}") for number in range(20)]
        refused = [one for one in answers if one.status_code != 201]
        print(f"full: {len(taken)} taken, {len(refused)} refused with {sorted({one.status_code for one in refused})}")
        print(f"  in words: {refused[0].json()['detail'] if refused else 'nothing was refused'}")
        print(f"  reading is answered {client.get(talk).status_code}; unwell: {unwell(client)}")
    print(f"room again: taken with {write('after').status_code}")
    with Full(disk):
        os.kill(int((var / "database" / "pid").read_text()), signal.SIGKILL)
        time.sleep(8)
        print(f"full, and the database killed: health {client.get('/health').status_code}, unwell: {unwell(client)}")
    back_s = wait_until_well(str(client.base_url))
    print(f"room again: well after {back_s:.0f} s (MariaDB looks once a minute whether there is room)")
    said = client.get(talk).text
    lost = [text for text in taken if text[:12] not in said]
    print(f"{len(taken)} comments were answered for, {len(lost)} of them are gone")
    right = all(one.status_code == 507 for one in refused) and bool(refused)
    return 0 if right and not lost else 1


def unwell(client: httpx.Client) -> str:
    parts = client.get("/health").json()["parts"]
    return ", ".join(part for part, state in parts.items() if state != "well")


def wait_until_well(address: str) -> float:
    """Wait until everything but the small disk is well; gives how long that took."""
    began = time.monotonic()
    while time.monotonic() - began < _GIVEN_UP_S:
        try:
            parts = httpx.get(f"{address}/health", timeout=20).json()["parts"]
            if {part for part, state in parts.items() if state != "well"} <= {"disk"} and "worker" in parts:
                break
        except (httpx.HTTPError, ValueError):
            pass
        time.sleep(0.3)
    return time.monotonic() - began


if __name__ == "__main__":
    sys.exit(main())
