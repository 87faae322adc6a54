#!/usr/bin/env python3
"""Throughput of a bench's upload and of a log that is brought in, beside the plain cost of reading the same bytes.

Upload: a pass of a million frames with ten sensor lanes, from the spool until the server has its figures; the reference
unpacks the same blobs and computes the figures. Import: a log of 200,000 rows in six columns, from the request until it
is a pass; the reference is `pandas.read_csv` of it and the figures. Each reference runs in the same process beforehand.
"""

import io
import json
import time
import uuid
from datetime import UTC, datetime
from itertools import pairwise
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pandas as pd
from private import private_server

from nomothet.bench.agent import Agent
from nomothet.bench.client import ServerClient
from nomothet.bench.job import Captured, Control, Job, PassResult
from nomothet.bench.spool import Spool
from nomothet.core.frames import frame_figures
from nomothet.formats.series import pack, unpack

_MAKE = """
from tests.server.base import Scene
scene = Scene(); scene.owe(count=2); print(scene.token, scene.review.pk, scene.tests[0].pk, scene.columns[0].pk)
"""
# Of the people that tests make, in a database that goes away.
PASSWORD = "orchard-lantern-weir-73"  # noqa: S105
FRAMES, LANES, ROWS = 1_000_000, 10, 200_000


def captures() -> list[Captured]:
    rng = np.random.default_rng(4)
    clock = np.arange(0, 10_000, 0.25)
    lanes = [
        Captured(f"lane {at}", "sensor", {"t_s": clock, "value": rng.normal(50, 5, len(clock)).round(2)}, "%")
        for at in range(LANES)
    ]
    return [Captured("frames", "frames", {"frame_ms": rng.normal(10, 0.5, FRAMES).round(4)}, "ms"), *lanes]


class Ready:
    """A machine whose passes are over at once."""

    def __init__(self, found: list[Captured]) -> None:
        self._found = found
        self.began: list[float] = []

    def inventory(self) -> dict[str, Any]:
        return {}

    def readings(self) -> dict[str, float]:
        return {}

    def run(self, job: Job, folder: Path, control: Control) -> PassResult:
        self.began.append(time.perf_counter())
        return PassResult("completed", datetime.now(UTC), 10_000.0, captures=self._found)

    def recover(self, job: Job, folder: Path) -> PassResult:
        return PassResult("crashed", datetime.now(UTC), 0.0)


def log() -> bytes:
    rng = np.random.default_rng(5)
    frames = rng.normal(10, 0.5, ROWS).round(4)
    table = pd.DataFrame(
        {
            "Time [s]": (np.cumsum(frames) / 1000).round(5),
            "Frame time [ms]": frames,
            **{f"use {at}": rng.normal(50, 5, ROWS).round(1) for at in range(4)},
        }
    )
    return table.to_csv(index=False).encode()


def timed(work: Any) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def main() -> None:
    found = captures()
    blobs = [pack(one.columns) for one in found]

    def plain_upload() -> None:
        for blob in blobs:
            unpack(blob)
        frame_figures(found[0].columns["frame_ms"].astype(float), target_fps=60)

    content = log()

    def plain_import() -> None:
        frame_figures(pd.read_csv(io.BytesIO(content))["Frame time [ms]"].to_numpy(), target_fps=60)

    upload_reference = min(timed(plain_upload) for _ in range(3))
    import_reference = min(timed(plain_import) for _ in range(3))
    with private_server() as private:
        token, review, test, column = private.script(_MAKE).split()
        machine, size = Ready(found), sum(map(len, blobs))
        agent = Agent(machine, Spool(private.var / "spool"), ServerClient(private.address, token), until_idle=True)
        agent.run()
        # One is sent before the next is taken.
        moments = [*machine.began, time.perf_counter()]
        for which, (began, ended) in zip(("the first of a server", "the next"), pairwise(moments), strict=True):
            ratio = (ended - began) / upload_reference
            print(f"upload, {which}: {size / 1e6:.1f} MB in {ended - began:.2f} s, {ratio:.1f} times its plain reading")
        with private.worker():
            for which in ("the first of a worker", "the next"):
                spent = bring_in(private.address, review, test, column, content)
                ratio = spent / import_reference
                print(f"import, {which}: {len(content) / 1e6:.1f} MB in {spent:.2f} s, {ratio:.1f} times its reading")


def bring_in(address: str, review: str, test: str, column: str, content: bytes) -> float:
    """Seconds from the first request until the pass is there, which a worker makes."""
    with httpx.Client(base_url=address, timeout=120) as client:
        client.get("/api/session")

        def csrf() -> dict[str, str]:
            return {"X-CSRFToken": client.cookies["csrftoken"]}

        client.post(
            "/api/session", json={"username": "tester", "password": PASSWORD}, headers=csrf()
        ).raise_for_status()
        began = time.perf_counter()
        path = f"/api/reviews/{review}/imports/{uuid.uuid4()}"
        client.put(path, files={"file": ("log.csv", content)}, headers=csrf()).raise_for_status()
        items = [{"index": 0, "test": int(test), "column": int(column)}]
        client.patch(path, json={"items": items}, headers=csrf()).raise_for_status()
        client.post(f"{path}/start", headers=csrf()).raise_for_status()
        while json.loads(client.get(path).content)["state"] != "done":
            time.sleep(0.02)
        return time.perf_counter() - began


if __name__ == "__main__":
    main()
