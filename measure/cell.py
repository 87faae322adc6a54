#!/usr/bin/env python3
"""Opening a cell with five passes of 60,000 frames and twelve sensor lanes: on the server, and to the first picture.

Wanted: under 300 ms on the server for the cell with all five traces, under one second in the browser. The references
are the bare answer of the server, and reading the same captures without an answer. A trace of a million frames is shown
as well, whole and zoomed in.
"""

import json
import statistics
import time
from collections.abc import Callable

import httpx
import numpy as np
from playwright.sync_api import Page, Playwright, sync_playwright
from private import private_server

from nomothet.core.hitches import hitch_positions
from nomothet.formats.series import pack, unpack

PASSES, FRAMES, LANES = 5, 60_000, 12
# Of the people that tests make, in a database that goes away.
PASSWORD = "orchard-lantern-weir-73"  # noqa: S105
FLAGS = ["--no-sandbox", "--disable-gpu"]
MAKE = f"""
import numpy as np
from django.utils import timezone
from nomothet.formats.series import pack
from nomothet.server.analysis.commands import recompute
from nomothet.server.passes.models import Pass, Series
from tests.server.base import Scene
scene = Scene()
rng = np.random.default_rng(7)
NAMES = [("graphics use", "%"), ("busiest core", "%"), ("processor use", "%"), ("memory used", "GB"),
         ("graphics memory used", "GB"), ("temperature", "°C"), ("clock", "MHz"), ("power", "W")]
NAMES += [(f"core {{at}}", "%") for at in range({LANES} - len(NAMES))]
def store(owner, name, kind, unit, columns):
    blob = pack(columns)
    Series.objects.create(owner=owner, name=name, kind=kind, unit=unit, size=len(blob), received=len(blob), sha256="",
                          blob=blob, capacity={{"%": 100, "GB": 8}}.get(unit))
def make(number, frames):
    f = rng.gamma(20, 0.5, frames).round(3)
    f[rng.integers(0, frames, frames // 2000)] *= 5
    length = float(f.sum() / 1000)
    owner = Pass.objects.create(test=scene.tests[0], column=scene.columns[number // 50], number=number, origin="bench",
                                outcome="completed", started_at=timezone.now(), duration_s=length,
                                whole_at=timezone.now())
    store(owner, "frames", "frames", "ms", {{"frame_ms": f}})
    t = np.arange(0, length, 0.25)
    for name, unit in NAMES:
        level = {{"%": 90, "GB": 6, "°C": 85, "MHz": 4200, "W": 35}}[unit]
        store(owner, name, "sensor", unit, {{"t_s": t, "value": rng.normal(level, level / 50, len(t)).round(2)}})
    recompute(owner)
    return owner.pk
ids = [make(number, {FRAMES}) for number in range(1, {PASSES} + 1)]
long = make(51, 1_000_000)
print(scene.review.pk, scene.tests[0].pk, scene.columns[0].pk, long, *ids)
"""


def median_ms(work: Callable[[], object], repeats: int = 7) -> float:
    times = []
    for _ in range(repeats):
        began = time.perf_counter()
        work()
        times.append(1000 * (time.perf_counter() - began))
    return statistics.median(times)


def signed_in(address: str) -> httpx.Client:
    client = httpx.Client(base_url=address, timeout=60)
    client.get("/api/session")
    headers = {"X-CSRFToken": client.cookies["csrftoken"]}
    client.post("/api/session", json={"username": "editor", "password": PASSWORD}, headers=headers).raise_for_status()
    return client


def matrix_page(play: Playwright, address: str, review: str) -> Page:
    """A browser in which the editor has signed in and looks at the matrix of a review; it ends with Playwright."""
    chromium = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
    page = chromium.new_page(viewport={"width": 1280, "height": 1000})
    page.goto(f"{address}/reviews/{review}/matrix")
    page.get_by_label("Name").fill("editor")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    return page


def bare_reading() -> float:
    """Unpacking as many captures and looking for hitches, as any answer must."""
    rng = np.random.default_rng(7)
    frames = pack({"frame_ms": rng.gamma(20, 0.5, FRAMES).round(3)})
    lane = pack({"t_s": np.arange(0, 600, 0.25), "value": rng.normal(90, 2, 2400).round(2)})

    def read() -> None:
        for _ in range(PASSES):
            f = unpack(frames)["frame_ms"].astype(float)
            hitch_positions(f, np.cumsum(f))
            for _ in range(LANES):
                unpack(lane)

    return median_ms(read)


def main() -> None:
    with private_server() as private:
        review, test, column, long, *ids = private.script(MAKE).split()
        client = signed_in(private.address)
        bare = median_ms(lambda: client.get("/health"))
        reading = bare_reading()
        cell = f"/api/reviews/{review}/tests/{test}/columns/{column}"
        opened = median_ms(lambda: client.get(cell).raise_for_status())
        one = f"/api/passes/{ids[0]}/trace?points=2400"
        traced = median_ms(lambda: client.get(one).raise_for_status())
        every = median_ms(lambda: [client.get(f"/api/passes/{pk}/trace?points=2400") for pk in ids])
        print(f"cell {opened:.0f} ms, one trace {traced:.0f} ms, all five one after the other {every:.0f} ms")
        print(f"  cell with its first trace {opened + traced:.0f} ms = {(opened + traced) / bare:.1f} × a bare answer")
        print(f"  cell with all traces {opened + every:.0f} ms = {(opened + every) / reading:.1f} × bare reading")
        far = median_ms(lambda: client.get(f"/api/passes/{long}/trace?points=2400"), 3)
        near = median_ms(lambda: client.get(f"/api/passes/{long}/trace?points=2400&from=500&to=520"), 3)
        size = len(json.dumps(client.get(f"/api/passes/{long}/trace?points=2400").json()))
        print(f"a million frames: whole {far:.0f} ms, zoomed {near:.0f} ms, {size / 1000:.0f} kB whole")
        with sync_playwright() as play:
            page = matrix_page(play, private.address, review)
            first = page.locator(f'[data-cell="{test}.average_fps.{column}"]')
            first.wait_for()
            times = []
            for _ in range(5):
                page.goto(f"{private.address}/reviews/{review}/matrix")
                first.wait_for()
                began = time.perf_counter()
                first.click()
                page.locator(".u-over").first.wait_for()
                times.append(1000 * (time.perf_counter() - began))
            print(
                f"browser: first picture after {statistics.median(times):.0f} ms (of {[round(one) for one in times]})"
            )


if __name__ == "__main__":
    main()
