#!/usr/bin/env python3
"""Memory and time of a large archive that is brought in: many files of many frames, at once.

Prints what the server and the worker take at rest and at their peak, beside what one file of the archive is unpacked.
Wanted: the worker takes no more than 16 times its largest file above what it takes at rest, whatever the archive holds.
"""

import argparse
import io
import subprocess
import sys
import time
import uuid
import zipfile
from pathlib import Path

import httpx
import numpy as np
from private import PROJECT, Private, private_server

WANTED_TIMES = 16
_MAKE = """
from django.conf import settings
from tests.server.base import Browser, Scene
scene = Scene()
print(scene.review.pk, Browser("tester").client.cookies[settings.SESSION_COOKIE_NAME].value)
"""


def main() -> int:
    """Bring the archive in; the status is 1 when a file is not stored, or the worker takes more than is wanted."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--files", type=int, default=60)
    parser.add_argument("--frames", type=int, default=2_000_000, help="in each file")
    arguments = parser.parse_args()
    archive, largest, whole = made_archive(arguments.files, arguments.frames)
    print(
        f"{arguments.files} files of {largest / 1e6:.1f} MB, {whole / 1e9:.2f} GB unpacked, "
        f"{len(archive) / 1e6:.0f} MB packed"
    )
    with private_server() as private:
        review, session = private.script(_MAKE).split()[-2:]
        worker = subprocess.Popen(
            [sys.executable, "-m", "nomothet.server.upkeep.worker"],
            env=private.environment, cwd=PROJECT, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        try:
            return brought_in(private, worker.pid, review, session, archive, largest)
        finally:
            worker.terminate()
            worker.wait()


def made_archive(files: int, frames: int) -> tuple[bytes, int, int]:
    """The archive, the size of its largest file and of all of it, in bytes; every file has other frames."""
    base = np.random.default_rng(3).normal(10, 0.5, frames).round(4)
    out, largest, whole = io.BytesIO(), 0, 0
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as target:
        for at in range(files):
            text = "frame_ms\n" + "\n".join(map(repr, np.roll(base, at).tolist())) + "\n"
            target.writestr(f"reef walk {'35W' if at % 2 else '20W'} {at}.csv", text)
            largest, whole = max(largest, len(text)), whole + len(text)
    return out.getvalue(), largest, whole


def brought_in(private: Private, worker: int, review: str, session: str, archive: bytes, largest: int) -> int:
    at_rest = {"server": resident(private.pids[0], "VmRSS"), "worker": settled(worker)}
    with httpx.Client(base_url=private.address, cookies={"sessionid": session}, timeout=900) as client:
        client.get("/api/session")
        headers = {"X-CSRFToken": client.cookies["csrftoken"]}
        path = f"/api/reviews/{review}/imports/{uuid.uuid4()}"
        began = time.monotonic()
        answer = client.put(path, files={"file": ("runs.zip", archive)}, headers=headers)
        looked = time.monotonic() - began
        if answer.status_code != 201:
            raise SystemExit(f"the archive was answered {answer.status_code}: {answer.text[:300]}")
        began = time.monotonic()
        client.post(f"{path}/start", headers=headers).raise_for_status()
        while (job := client.get(path).json())["state"] in ("open", "queued", "running"):
            time.sleep(0.5)
        stored = time.monotonic() - began
    done = sum(item["state"] == "stored" for item in job["items"])
    print(f"looked at in {looked:.1f} s, {done} of {len(job['items'])} stored in {stored:.1f} s")
    peaks = {"server": resident(private.pids[0], "VmHWM"), "worker": resident(worker, "VmHWM")}
    for name, peak in peaks.items():
        print(f"{name}: {at_rest[name] / 1e6:.0f} MB at rest, {peak / 1e6:.0f} MB at its peak")
    times = (peaks["worker"] - at_rest["worker"]) / largest
    print(f"the worker took {times:.1f} times its largest file")
    return int(done < len(job["items"]) or times > WANTED_TIMES)


def settled(pid: int) -> int:
    """What a process takes once it has read its programs."""
    before, now = -1, resident(pid, "VmRSS")
    while now != before:
        time.sleep(2)
        before, now = now, resident(pid, "VmRSS")
    return now


def resident(pid: int, what: str) -> int:
    """Resident memory in bytes, now (VmRSS) or at its peak (VmHWM), from the kernel."""
    lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    return 1000 * int(next(line for line in lines if line.startswith(what)).split()[1])


if __name__ == "__main__":
    sys.exit(main())
