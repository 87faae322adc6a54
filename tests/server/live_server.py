"""A real server process on the test database, for what only a process can show."""

import os
import signal
import socket
import subprocess
import sys
import time
from types import TracebackType

import httpx
from django.db import connection

_READY_S = 120.0


class LiveServer:
    """uvicorn in a process of its own; can be killed and started again on the same port."""

    def __init__(self) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.address = f"http://127.0.0.1:{self.port}"
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        environment = {**os.environ, "NOMOTHET_DATABASE_NAME": connection.settings_dict["NAME"]}
        self._process = subprocess.Popen(
            [
                sys.executable, "-m", "uvicorn", "nomothet.server.asgi:application", "--host", "127.0.0.1",
                "--port", str(self.port), "--lifespan", "off", "--log-level", "error",
                "--timeout-graceful-shutdown", "1",
            ],
            env=environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )  # fmt: skip
        deadline = time.monotonic() + _READY_S
        with httpx.Client(base_url=self.address, timeout=5) as client:
            while not _answers(client):
                if time.monotonic() > deadline:
                    raise TimeoutError("the server did not start")
                time.sleep(0.05)

    @property
    def running(self) -> bool:
        return self._process is not None and self._process.poll() is None

    def kill(self) -> None:
        """End the process as a crash would."""
        assert self._process is not None
        self._process.send_signal(signal.SIGKILL)
        self._process.wait()

    def __enter__(self) -> "LiveServer":
        self.start()
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, tb: TracebackType | None) -> None:
        if self._process is not None and self.running:
            self._process.terminate()
            try:
                self._process.wait(10)
            except subprocess.TimeoutExpired:
                self.kill()


def _answers(client: httpx.Client) -> bool:
    try:
        return client.get("/health").status_code == 200
    except httpx.HTTPError:
        return False
