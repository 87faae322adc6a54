#!/usr/bin/env python3
"""What a browser takes, beside ./start: the script that comes before the first page is shown, and how long after a key
the lens of a full matrix has changed, to the first frame and to all rows in sight. The review of 20 configurations ×
60 tests × 5 passes is the one that `screens.py --full` makes.

Wanted: 110 KB of script, a frame to the first sign, 150 ms to the rows. An empty page's frame stands beside it.
"""

import argparse
import statistics
import sys
from pathlib import Path

import httpx
from playwright.sync_api import Page, Response, sync_playwright

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "scripts"))
from signed_in import session_of

KEY = "measure-full"
FLAGS = ["--no-sandbox", "--disable-gpu"]
_ROUNDS = 3
_LENSES = "23451"
# Resolves once two frames bring nothing new after the tab of the lens was chosen.
_SWITCH = """key => new Promise((done) => {
  const grid = () => document.querySelector("main").innerText;
  const tab = () => [...document.querySelectorAll("[role=tab]")].findIndex((one) => one.ariaSelected === "true");
  const before = tab(), began = performance.now();
  let sign = null, last = "", still = 0, changed = began;
  document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
  const look = () => {
    const now = performance.now(), text = grid();
    if (sign === null && tab() !== before) sign = now - began;
    if (text !== last) { changed = now; still = 0; } else still += 1;
    last = text;
    if ((sign !== null && still > 12) || now - began > 5000) done([sign, changed - began]);
    else requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
})"""
_FRAME = """() => new Promise((done) => {
  const began = performance.now();
  requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - began)));
})"""


def first_page(page: Page) -> None:
    """The scripts that were there when the list of reviews was, as they came over the line."""
    came: dict[str, int] = {}

    def note(response: Response) -> None:
        if response.url.endswith(".js"):
            came[response.url] = int(response.headers.get("content-length", 0))

    # What is loaded once the page has time for it is no part of the first page.
    page.add_init_script("window.requestIdleCallback = () => 0")
    page.on("response", note)
    page.goto("/reviews")
    page.get_by_role("heading", name="Reviews").wait_for()
    print(f"first page: {sum(came.values()) / 1000:.1f} KB of script in {len(came)} files, as this browser asks for it")
    page.remove_listener("response", note)


def lenses(page: Page, review: int) -> None:
    """Every lens by its key, several times."""
    page.goto(f"/reviews/{review}/matrix")
    page.get_by_role("gridcell").first.wait_for()
    frame = statistics.median(page.evaluate(_FRAME) for _ in range(20))
    signs, rows = [], []
    for at in range(_ROUNDS):
        for key in _LENSES:
            sign, all_rows = page.evaluate(_SWITCH, key)
            if at:
                signs.append(sign)
                rows.append(all_rows)
    print(
        f"lens: first sign after {statistics.median(signs):.0f} ms, rows after {statistics.median(rows):.0f} ms "
        f"(at most {max(rows):.0f}); two frames of a page at rest take {frame:.0f} ms"
    )


def main() -> None:
    """Measure both in the demo."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=8420)
    arguments = parser.parse_args()
    address = f"http://127.0.0.1:{arguments.port}"
    cookies = session_of("mirela")
    found = httpx.get(f"{address}/api/reviews", cookies=cookies, timeout=30).json()
    review = next((one["id"] for one in found if one["key"] == KEY), None)
    if review is None:
        raise SystemExit("the full review is not there; run measure/screens.py --full first")
    with sync_playwright() as play:
        chromium = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
        context.add_cookies([{"name": name, "value": value, "url": address} for name, value in cookies.items()])
        page = context.new_page()
        first_page(page)
        lenses(page, review)
        chromium.close()


if __name__ == "__main__":
    main()
