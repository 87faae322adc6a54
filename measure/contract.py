#!/usr/bin/env python3
"""Cases made from the OpenAPI document, sent as everybody who may speak to the server. Wanted: no server error and no
answer that the document does not describe.

Prints for each of them how many operations and cases were tried and what was found; the report of each lies in the
folder named. Its cases are random: --seed repeats a run.
"""

import argparse
import json
import subprocess
import sys
import time
from collections import Counter
from pathlib import Path
from tempfile import mkdtemp

from private import private_server

CHECKS = (
    "not_a_server_error,status_code_conformance,content_type_conformance,response_headers_conformance,"
    "response_schema_conformance"
)
_MAKE = """
import json
from tests.server.base import Browser, Scene
from tests.server.populated import populate
from nomothet.server.people.models import User
from nomothet.server.people.tokens import make_token
from django.conf import settings
made = populate(Scene())
who = {"stranger": {}, "bench": {"Authorization": f"Bench {made.scene.token}"}}
for role in ("reader", "tester", "editor", "admin"):
    cookies = Browser(role).client.cookies
    told = "; ".join(f"{name}={one.value}" for name, one in cookies.items())
    who[role] = {"Cookie": told, "X-CSRFToken": cookies[settings.CSRF_COOKIE_NAME].value, "If-Match": "*"}
for scope in ("reading", "recording"):
    _, secret = make_token(User.objects.get(username="admin"), None, scope, scope)
    who[f"{scope} token"] = {"Authorization": f"Bearer {secret}"}
print(json.dumps(who))
"""
# Who signs out, changes the role or the password of who asks, or ends sessions, is a stranger from there on.
_LEFT_OUT = r"^/api/(session|account|people/|systems/\{system\}/(bench-token|archived))"


def main() -> int:
    """Try everybody, or those who are named; the status is 1 when something was found."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--cases", type=int, default=40, help="for each operation")
    parser.add_argument("--as", dest="who", action="append", help="one who speaks; everybody without it")
    parser.add_argument("--seed", type=int, default=1)
    arguments = parser.parse_args()
    folder = Path(mkdtemp(prefix="nomothet-contract-"))
    print(f"reports in {folder}")
    bad = 0
    with private_server() as private:
        who = json.loads(private.script(_MAKE).splitlines()[-1])
        for name in arguments.who or who:
            bad += try_as(name, who[name], private.address, folder, arguments)
    return 1 if bad else 0


def try_as(name: str, headers: dict[str, str], address: str, folder: Path, arguments: argparse.Namespace) -> int:
    """Send all cases as one of them; gives how many failed."""
    report = folder / f"{name.replace(' ', '-')}.ndjson"
    command = [
        str(Path(sys.executable).with_name("schemathesis")), "run", f"{address}/api/schema", "--checks", CHECKS,
        "--phases", "fuzzing", "--max-examples", str(arguments.cases), "--seed", str(arguments.seed),
        "--generation-database", "none", "--warnings", "off", "--suppress-health-check", "all", "--no-shrink",
        "--continue-on-failure", "--report", "ndjson", "--report-ndjson-path", str(report), "--workers", "1",
        "--request-timeout", "30",
    ]  # fmt: skip
    for key, value in headers.items():
        command += ["--header", f"{key}: {value}"]
    command += ["--exclude-path-regex", _LEFT_OUT]
    began = time.monotonic()
    # Whatever it keeps of its own lies with the reports.
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    (folder / f"{name.replace(' ', '-')}.txt").write_text(done.stdout + done.stderr)
    told = told_of(report)
    print(
        f"{name:<16} {told['operations']:>4} operations {told['cases']:>7} cases {told['failed']:>5} failed "
        f"{time.monotonic() - began:6.0f} s",
        flush=True,
    )
    return told["failed"]


def told_of(report: Path) -> Counter[str]:
    """How much a report holds: operations, cases, and checks that failed."""
    counted: Counter[str] = Counter()
    for line in report.read_text().splitlines():
        recorder = json.loads(line).get("ScenarioFinished", {}).get("recorder")
        if recorder:
            counted["operations"] += 1
            counted["cases"] += len(recorder.get("cases", {}))
            checks = [check for of_case in recorder.get("checks", {}).values() for check in of_case]
            counted["failed"] += sum(check["status"] != "success" for check in checks)
    return counted


if __name__ == "__main__":
    sys.exit(main())
