"""Cases for every operation, made from the OpenAPI document and sent to a real server: no server error comes back, and
every answer is one that the document describes. `measure/contract.py` sends many more, as everybody."""

import json
import re
import subprocess
import sys
import threading
from pathlib import Path

import httpx

from nomothet.server.launch.ports import free_port
from tests.launch.installation import DEADLINE_S, PROJECT, WithDatabase, environment_of

_CASES = 1
_CHECKS = "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance"
# Whoever signs out, or issues the bench another token, is a stranger from there on.
_LEFT_OUT = r"^/api/(session|account|people/|systems/\{system\}/(bench-token|archived))"


class Contract(WithDatabase):
    made_by = """
from tests.server.base import Scene
from tests.server.populated import populate
populate(Scene())
"""

    def setUp(self) -> None:
        port = free_port()
        self.address = f"http://127.0.0.1:{port}"
        environment = environment_of(self.var, self.database.port)
        command = [sys.executable, "-m", "nomothet.server.launch.terminal", "--database-port", str(self.database.port)]
        serving = subprocess.Popen(
            [*command, "serve", "--port", str(port), "--processes", "1"],
            env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        self.addCleanup(serving.wait, DEADLINE_S)
        self.addCleanup(serving.terminate)
        with httpx.Client(base_url=self.address, timeout=5) as client:
            while serving.poll() is None:
                try:
                    if client.get("/health").status_code == 200:
                        return
                except httpx.HTTPError:
                    threading.Event().wait(0.1)
        self.fail("the server did not start")

    def test_every_answer_is_one_that_the_document_describes(self) -> None:
        cookies = json.loads(self.script(_SIGN_IN).splitlines()[-1])
        headers = {"Cookie": cookies["cookie"], "X-CSRFToken": cookies["token"], "If-Match": "*"}
        command = [
            str(Path(sys.executable).with_name("schemathesis")), "run", f"{self.address}/api/schema", "--phases",
            "fuzzing", "--checks", _CHECKS, "--max-examples", str(_CASES), "--seed", "1", "--generation-database",
            "none", "--warnings", "off", "--suppress-health-check", "all", "--no-shrink", "--continue-on-failure",
            "--exclude-path-regex", _LEFT_OUT,
        ]  # fmt: skip
        for name, value in headers.items():
            command += ["--header", f"{name}: {value}"]
        done = subprocess.run(command, cwd=PROJECT / "var", capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stdout[-4000:] + done.stderr[-1000:])
        found = re.search(r"(\d+) generated, \d+ passed|(\d+) generated", done.stdout)
        assert found is not None, done.stdout[-1000:]
        self.assertGreater(int(found.group(1) or found.group(2)), 200)


_SIGN_IN = """
import json
from django.conf import settings
from tests.server.base import Browser
cookies = Browser("editor").client.cookies
told = "; ".join(f"{name}={one.value}" for name, one in cookies.items())
print(json.dumps({"cookie": told, "token": cookies[settings.CSRF_COOKIE_NAME].value}))
"""
