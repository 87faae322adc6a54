"""A real server process on the test database, for what only a process can show."""

import multiprocessing
import os
import socket
import time
from multiprocessing.process import BaseProcess
from types import TracebackType

import httpx
import uvicorn
from django.db import connection

_READY_S = 120.0
# Each begins as a copy of a process that has read the code, and does nothing else.
_BEGUN_FROM = multiprocessing.get_context("forkserver")
_BEGUN_FROM.set_forkserver_preload(["nomothet.server.asgi", "tests.server.live_server"])


class LiveServer:
    """A server in a process of its own; can be killed and started again on the same port."""

    def __init__(self) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.address = f"http://127.0.0.1:{self.port}"
        self._process: BaseProcess | None = None

    def start(self) -> None:
        os.environ["NOMOTHET_DATABASE_NAME"] = str(connection.settings_dict["NAME"])
        self._process = _BEGUN_FROM.Process(target=_serve, args=(self.port,), daemon=True)
        self._process.start()
        deadline = time.monotonic() + _READY_S
        with httpx.Client(base_url=self.address, timeout=5) as client:
            while not _answers(client):
                if time.monotonic() > deadline:
                    raise TimeoutError("the server did not start")
                time.sleep(0.05)

    @property
    def running(self) -> bool:
        return self._process is not None and self._process.is_alive()

    def kill(self) -> None:
        """End the process as a crash would."""
        assert self._process is not None
        self._process.kill()
        self._process.join()

    def __enter__(self) -> "LiveServer":
        self.start()
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, tb: TracebackType | None) -> None:
        if self._process is not None and self.running:
            self._process.terminate()
            self._process.join(10)
            if self.running:
                self.kill()


def _serve(port: int) -> None:
    with open(os.devnull, "wb") as nowhere:
        os.dup2(nowhere.fileno(), 1)
        os.dup2(nowhere.fileno(), 2)
    uvicorn.run(
        "nomothet.server.asgi:application", host="127.0.0.1", port=port, lifespan="off", log_level="error",
        timeout_graceful_shutdown=1,
    )  # fmt: skip


def _answers(client: httpx.Client) -> bool:
    try:
        return client.get("/health").status_code == 200
    except httpx.HTTPError:
        return False
