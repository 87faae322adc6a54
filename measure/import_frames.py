#!/usr/bin/env python3
"""Time to import a CSV of a million frames through the API until its figures can be read.

Printed as a ratio to `pandas.read_csv` of the file plus the computation of its figures, in one run. Wanted: at most 3,
and under 400 MB of extra memory in the server. Needs a running ./start; the pass it makes is set aside at the end.
"""

import argparse
import io
import sys
import time
import uuid
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pandas as pd
import psutil

from nomothet.core.frames import frame_figures

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "scripts"))
from signed_in import session_of

PROJECT = Path(__file__).resolve().parents[1]
FRAMES = 1_000_000


def csv_file() -> bytes:
    frames = np.random.default_rng(3).normal(10, 0.5, FRAMES).round(4)
    return ("frame_ms\n" + "\n".join(map(repr, frames.tolist())) + "\n").encode()


def reference(content: bytes) -> float:
    began = time.perf_counter()
    frames = pd.read_csv(io.BytesIO(content))["frame_ms"].to_numpy()
    frame_figures(frames, target_fps=60)
    return time.perf_counter() - began


def server_process(port: int) -> psutil.Process:
    for process in psutil.process_iter():
        try:
            if process.name() == "nomothet server" and any(
                one.laddr.port == port for one in process.net_connections() if one.status == psutil.CONN_LISTEN
            ):
                return process
        except psutil.Error:
            continue
    raise SystemExit("no server is running on this port; run ./start first")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=8420)
    parser.add_argument("--repeats", type=int, default=5)
    arguments = parser.parse_args()
    address = f"http://127.0.0.1:{arguments.port}"
    cookies = session_of("tomas")
    process = server_process(arguments.port)
    content = csv_file()
    expected = min(reference(content) for _ in range(arguments.repeats))
    with httpx.Client(base_url=address, timeout=120, cookies=cookies) as client:
        client.get("/api/session")
        review = next(r for r in client.get("/api/reviews").json() if r["key"] == "dome-power")["id"]
        plan = client.get(f"/api/reviews/{review}").json()
        cell = f"/api/reviews/{review}/tests/{plan['tests'][0]['id']}/columns/{plan['columns'][0]['id']}"
        times = []
        at_rest = process.memory_info().rss
        peak = at_rest
        for _ in range(arguments.repeats):
            headers = {"X-CSRFToken": client.cookies["csrftoken"]}
            pass_id = uuid.uuid4()
            kept = cell_count(client, review, plan)
            began = time.perf_counter()
            client.put(
                f"{cell}/frames/{pass_id}", files={"file": ("run.csv", content)}, headers=headers
            ).raise_for_status()
            rows = client.get(f"/api/reviews/{review}/matrix").json()["rows"]
            times.append(time.perf_counter() - began)
            found = next(row for row in rows if row["metric"] == "average_fps")["cells"][str(plan["columns"][0]["id"])]
            assert found["n"] > kept, "the figures of the imported pass are not in the matrix"
            high = process.memory_full_info()
            peak = max(peak, high.rss)
            reason = {"reason": "made by measure/import_frames.py"}
            client.put(f"/api/passes/{pass_id}/set-aside", json=reason, headers=headers).raise_for_status()
    taken = min(times)
    print(f"file {len(content) / 1e6:.1f} MB, {FRAMES} frames")
    print(f"read_csv and figures {expected:.3f} s, import until readable {taken:.3f} s, ratio {taken / expected:.2f}")
    print(f"server memory {at_rest / 1e6:.0f} MB at rest, {peak / 1e6:.0f} MB after, {peak_of(process)} MB at its peak")


def cell_count(client: httpx.Client, review: int, plan: dict[str, Any]) -> int:
    """Passes that count in the cell that is imported into."""
    rows = client.get(f"/api/reviews/{review}/matrix").json()["rows"]
    cells = next(row for row in rows if row["metric"] == "average_fps")["cells"]
    return int(cells[str(plan["columns"][0]["id"])]["n"])


def peak_of(process: psutil.Process) -> str:
    """High-water mark of resident memory, from the kernel."""
    for line in Path(f"/proc/{process.pid}/status").read_text().splitlines():
        if line.startswith("VmHWM"):
            return f"{int(line.split()[1]) / 1000:.0f}"
    return "unknown"


if __name__ == "__main__":
    main()
