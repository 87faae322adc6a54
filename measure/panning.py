#!/usr/bin/env python3
"""Zooming and panning over a pass of a million frames with twelve sensor lanes, in a browser: how many pictures a
second, and how many were dropped, while the wheel turns with every one of them.

Wanted: 60 pictures a second. How many the same page makes at rest stands beside it.
"""

import statistics

from cell import MAKE, matrix_page
from playwright.sync_api import Page, sync_playwright
from private import private_server

_PICTURES = 180
# Turns the wheel once in each picture over the frames: in, then along with the keys, then out; returns the times
# between pictures.
_TURN = """([count, acts]) => new Promise((done) => {
  const over = document.querySelector(".u-over"), box = over.getBoundingClientRect(), times = [];
  const wheel = (deltaY) => over.dispatchEvent(new WheelEvent("wheel", {
    deltaY, clientX: box.left + box.width * 0.6, clientY: box.top + 20, bubbles: true, cancelable: true }));
  const key = (name) => document.body.dispatchEvent(new KeyboardEvent("keydown", { key: name, bubbles: true }));
  let last = performance.now(), at = 0;
  const look = (now) => {
    times.push(now - last);
    last = now;
    if (times.length >= count) return done(times.slice(1));
    if (acts) {
      const step = at++ % 60;
      if (step < 20) wheel(-1); else if (step < 40) key(step % 2 ? "[" : "]"); else wheel(1);
    }
    requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
})"""


def pictures(page: Page, *, acts: bool) -> list[float]:
    times: list[float] = page.evaluate(_TURN, [_PICTURES, acts])
    return times


def told(times: list[float], usual: float) -> str:
    dropped = sum(max(0, round(one / usual) - 1) for one in times)
    late = statistics.quantiles(times, n=20)[-1]
    return f"{1000 * len(times) / sum(times):.0f} pictures a second, {dropped} of {len(times) + dropped} dropped, " + (
        f"95 % within {late:.0f} ms, the longest {max(times):.0f} ms"
    )


def main() -> None:
    with private_server() as private, sync_playwright() as play:
        review, test, _column, *_ids = private.script(MAKE).split()
        page = matrix_page(play, private.address, review)
        # The long pass is alone in the cell of the second configuration.
        page.locator(f'[data-cell^="{test}.average_fps."]').nth(1).click()
        page.locator(".u-over").first.wait_for()
        page.wait_for_load_state("networkidle")
        rest = pictures(page, acts=False)
        usual = statistics.median(rest)
        print(f"at rest:            {told(rest, usual)}")
        print(f"zooming, panning:   {told(pictures(page, acts=True), usual)}")


if __name__ == "__main__":
    main()
