#!/usr/bin/env python3
"""Time from a sample on a bench to the picture of it in a browser, on loopback. Wanted: a median under 500 ms.

A bench samples a counter ten times a second and reports as the real one does; the page is watched for the counter's
values. Printed as milliseconds and as a ratio to a bare answer of the server in the same run.
"""

import argparse
import re
import statistics
import threading
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import httpx
from playwright.sync_api import sync_playwright
from private import private_server

from nomothet.bench.agent import Agent
from nomothet.bench.client import ServerClient
from nomothet.bench.job import Control, Job, PassResult
from nomothet.bench.spool import Spool

_MAKE = """
from tests.server.base import Scene
scene = Scene(); entry, = scene.owe(); print(scene.token, entry.pk)
"""
# Of the people that tests make, in a database that goes away.
PASSWORD = "orchard-lantern-weir-73"  # noqa: S105
SAMPLE_S, REPORT_S = 0.1, 0.2
FLAGS = ["--no-sandbox", "--disable-gpu"]


class Counter:
    """A machine whose clock is a counter; remembers when each value was sampled."""

    def __init__(self, seconds: float) -> None:
        self.sampled: dict[int, float] = {}
        self._seconds = seconds

    def inventory(self) -> dict[str, Any]:
        return {}

    def readings(self) -> dict[str, float]:
        return {}

    def run(self, job: Job, folder: Path, control: Control) -> PassResult:
        began = time.monotonic()
        value, told = 1000, 0.0
        while time.monotonic() - began < self._seconds:
            value += 1
            self.sampled[value] = time.monotonic()
            if time.monotonic() - told >= REPORT_S:
                told = time.monotonic()
                control.report("counting", told - began, self._seconds - (told - began), {"clock": float(value)})
            time.sleep(SAMPLE_S)
        return PassResult("completed", datetime.now(UTC), self._seconds)

    def recover(self, job: Job, folder: Path) -> PassResult:
        return PassResult("crashed", datetime.now(UTC), 0.0)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=30)
    arguments = parser.parse_args()
    with private_server() as private, sync_playwright() as play:
        token, entry = private.script(_MAKE).split()
        machine = Counter(arguments.seconds)
        agent = Agent(machine, Spool(private.var / "spool"), ServerClient(private.address, token), until_idle=True)
        chromium = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = chromium.new_page()
        page.goto(f"{private.address}/running/{entry}")
        page.get_by_label("Name").fill("reader")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_text("owed").wait_for()
        threading.Thread(target=agent.run, daemon=True).start()
        page.get_by_role("region", name="Running pass").wait_for()
        delays: list[float] = []
        seen = 0
        while True:
            text = page.evaluate("document.querySelector('main')?.innerText ?? ''")
            if "is over" in text:
                break
            found = re.search(r"(\d{4}) MHz", text)
            if found and int(found[1]) != seen:
                seen = int(found[1])
                delays.append(time.monotonic() - machine.sampled[seen])
            time.sleep(0.005)
        chromium.close()
        began = time.perf_counter()
        for _ in range(20):
            httpx.get(f"{private.address}/health")
        bare = (time.perf_counter() - began) / 20
    delays = sorted(delays[2:])
    median = statistics.median(delays)
    late = delays[int(0.95 * len(delays))]
    print(f"{len(delays)} pictures: median {1000 * median:.0f} ms, 95 % under {1000 * late:.0f} ms")
    print(f"{median / bare:.0f} times a bare answer of {1000 * bare:.1f} ms")


if __name__ == "__main__":
    main()
