"""Passes with sensors, as a bench brings them."""

import base64
import hashlib
import json
from typing import Any

import numpy as np

from nomothet.formats.series import pack
from tests.server.base import BenchClient

CAPACITIES = {"%": 100.0, "GB": 4.0, "MB": 4096.0}


def deliver_recorded(
    bench: BenchClient,
    frames: np.ndarray | None,
    sensors: dict[tuple[str, str], Any],
    capacity: float | None = -1.0,
    **changes: Any,
) -> str:
    """Take the next owed pass and bring it in with frames and a reading a second of each (sensor, unit).

    A capacity of −1 is the usual one of the unit, None is none.
    """
    pass_id, job = bench.take()
    assert job, "nothing is owed"
    blobs = {} if frames is None else {"frames": ("frames", "ms", None, pack({"frame_ms": frames}))}
    for (name, unit), values in sensors.items():
        own = np.asarray(values, float)
        blob = pack({"t_s": np.arange(len(own), dtype=float), "value": own})
        blobs[name] = ("sensor", unit, CAPACITIES.get(unit) if capacity == -1 else capacity, blob)
    body = {
        "entry": job["entry"],
        "outcome": "completed",
        "started_at": "2026-05-04T10:00:00+00:00",
        "duration_s": 60.0,
        "environment": {},
        "figures": [],
        "series": [
            {
                "name": name,
                "kind": kind,
                "unit": unit,
                "capacity": capacity,
                "size": len(blob),
                "sha256": hashlib.sha256(blob).hexdigest(),
            }
            for name, (kind, unit, capacity, blob) in blobs.items()
        ],
        "inline": {name: base64.b64encode(blob).decode() for name, (_, _, _, blob) in blobs.items()},
        **changes,
    }
    answer = bench.send("put", f"/passes/{pass_id}", body)
    assert answer.status_code == 200, answer.content
    answer = bench.send("post", f"/passes/{pass_id}/finish")
    assert answer.status_code == 200, json.loads(answer.content)
    return pass_id
