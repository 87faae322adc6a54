#!/usr/bin/env python3
"""Takes the pictures in docs/screenshots of a running demo: .venv/bin/python scripts/screenshots.py [--only NAME]."""

import argparse
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect, sync_playwright
from signed_in import session_of

PROJECT = Path(__file__).resolve().parents[1]
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
SIGNED_IN = {
    "reviews": "/reviews",
    "brief": "/reviews/{cabinet}/brief",
    "matrix-figures": "/reviews/{dome}/matrix?lens=figures",
    "matrix-versus": "/reviews/{dome}/matrix?lens=versus",
    "limits": "/reviews/{dome}/matrix?lens=limits",
    "standings": "/standings?workload=tidal-rally",
    "economy": "/reviews/{dome}/matrix?lens=economy",
    "cell-pane": "/reviews/{dome}/matrix?lens=versus&cells={test}.low_1pct.{a},{test}.low_1pct.{c}",
    "findings": "/reviews/{dome}/findings",
    "verdict": "/reviews/{reserve}/verdict",
    "system": "/systems/{heron}?configuration={delivered}",
    "shelf": "/shelf?part={kit}",
    "workloads": "/workloads?workload={loom}",
}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--address", default="http://127.0.0.1:8420")
    parser.add_argument("--to", type=Path, default=PROJECT / "docs" / "screenshots")
    parser.add_argument("--only", nargs="*")
    parser.add_argument("--dark", action="store_true")
    parser.add_argument("--user", default="mirela")
    parser.add_argument("--size", default="1280x800")
    arguments = parser.parse_args()
    arguments.to.mkdir(parents=True, exist_ok=True)
    cookies = session_of(arguments.user)
    put_hints_away(arguments.user)
    width, height = map(int, arguments.size.split("x"))

    def wanted(name: str) -> bool:
        return not arguments.only or name in arguments.only

    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(
            viewport={"width": width, "height": height}, color_scheme="dark" if arguments.dark else "light"
        )
        page.on("console", lambda message: print("console:", message.text) if message.type == "error" else None)
        page.context.add_cookies([{"name": n, "value": v, "url": arguments.address} for n, v in cookies.items()])
        page.goto(arguments.address)
        page.get_by_role("link", name="Reviews").wait_for()
        places = places_of(page, arguments.address)
        for name, path in SIGNED_IN.items():
            if wanted(name):
                page.goto(arguments.address + path.format(**places))
                if name == "cell-pane":
                    page.locator("canvas").nth(3).wait_for()
                shoot(page, arguments.to / f"{name}.png")
        if wanted("docket"):
            page.set_viewport_size({"width": 390, "height": 844})
            page.goto(f"{arguments.address}/systems/{places['heron']}/docket")
            shoot(page, arguments.to / "docket.png")
        if wanted("hand"):
            page.set_viewport_size({"width": 390, "height": 844})
            page.goto(f"{arguments.address}/hand/{places['by_hand']}")
            page.get_by_role("button", name="Begin this pass").wait_for()
            shoot(page, arguments.to / "hand.png")
        if wanted("docket") or wanted("hand"):
            page.set_viewport_size({"width": width, "height": height})
        for name, take in (("typing-in", typing_in), ("running", running)):
            if wanted(name):
                take(page, arguments.address, places)
                shoot(page, arguments.to / f"{name}.png")
        if wanted("installation"):
            as_admin = session_of("desk").items()
            page.context.add_cookies([{"name": n, "value": v, "url": arguments.address} for n, v in as_admin])
            page.goto(f"{arguments.address}/installation")
            page.get_by_role("heading", name="Backups").wait_for()
            shoot(page, arguments.to / "installation.png")
        if wanted("record"):
            page.goto(f"{arguments.address}/records/{places['record']}")
            page.wait_for_load_state("networkidle")
            shoot(page, arguments.to / "record.png")
        browser.close()


def put_hints_away(username: str) -> None:
    """Sheets as they are to somebody who knows them."""
    from nomothet.server.people.models import User
    from nomothet.server.people.preferences import set_preferences

    set_preferences(User.objects.get(username=username), hints_read=["brief", "matrix", "docket", "findings"])


def typing_in(page: Page, address: str, places: dict[str, object]) -> None:
    """Figures on their way into a cell."""
    page.goto(address + "/reviews/{dome}/matrix?lens=figures".format(**places))
    page.get_by_role("button", name="Type in").click()
    page.locator('[data-cell="{noise}.noise_dba.{c}"]'.format(**places)).click()
    page.keyboard.type("26.3 25–27 ~26 4")
    page.get_by_role("region", name="Typing in").get_by_text("Is that right?").wait_for()


def recording(watts: int) -> bytes:
    """A made-up log of frames and sensors, with decimal commas."""
    rng = np.random.default_rng(watts)
    frames = 30 - watts / 10 + rng.gamma(2, 1, 1500)
    rows = [
        f"{at / 1000:.3f};{frame:.3f};{60 + number / 100:.1f};{watts + rng.normal():.2f}".replace(".", ",")
        for number, (at, frame) in enumerate(zip(np.cumsum(frames), frames, strict=True))
    ]
    return ("Time [s];Frame time [ms];Temp [°C];Power [W]\n" + "\n".join(rows)).encode("cp1252")


def running(page: Page, address: str, places: dict[str, object]) -> None:
    """A pass of the dome while it runs; one is asked for."""
    page.goto(address + "/reviews/{dome}/matrix?lens=progress".format(**places))
    page.evaluate(
        """async ([review, test, column]) => {
            const token = /csrftoken=([^;]+)/.exec(document.cookie)[1];
            const body = JSON.stringify({ tests: [test], columns: [column], passes: 1 });
            const headers = { "X-CSRFToken": token, "Content-Type": "application/json" };
            await fetch(`/api/reviews/${review}/docket`, { method: "POST", headers, body });
        }""",
        [places["dome"], places["test"], places["a"]],
    )
    page.get_by_role("link", name="Watch it").click()
    page.get_by_role("button", name="crowd").click()
    page.wait_for_timeout(4000)


def places_of(page: Page, address: str) -> dict[str, object]:
    """Numbers that the addresses need, read from the API of the running demo."""
    reviews = page.request.get(f"{address}/api/reviews").json()
    dome = next(review for review in reviews if review["key"] == "dome-power")
    review = page.request.get(f"{address}/api/reviews/{dome['id']}").json()
    columns = [column["id"] for column in review["columns"]]
    cabinet = next(review for review in reviews if review["key"] == "cabinet-cost")
    systems = page.request.get(f"{address}/api/systems").json()
    heron = next(system["id"] for system in systems if system["key"] == "heron")
    configurations = page.request.get(f"{address}/api/systems/{heron}").json()["configurations"]
    parts = page.request.get(f"{address}/api/parts").json()
    workloads = page.request.get(f"{address}/api/workloads").json()
    dunlin = next(system["id"] for system in systems if system["key"] == "dunlin")
    visits = page.request.get(f"{address}/api/systems/{dunlin}/docket").json()["visits"]
    return {
        "by_hand": visits[0]["groups"][0]["entries"][0]["id"],
        "cabinet": cabinet["id"],
        "reserve": next(review["id"] for review in reviews if review["key"] == "graphics-reserve"),
        "heron": heron,
        "delivered": next(one["id"] for one in configurations if one["name"] == "Heron as delivered"),
        "kit": next(part["id"] for part in parts if part["name"] == "Two 16 GB at 5600"),
        "loom": next(one["id"] for one in workloads if (one["key"], one["version"]) == ("loom", "4")),
        "dome": dome["id"],
        "test": review["tests"][2]["id"],
        "a": columns[0],
        "c": columns[2],
        "record": dome["record"],
        "noise": review["tests"][4]["id"],
    }


def shoot(page: Page, path: Path) -> None:
    page.wait_for_load_state("load")
    page.evaluate("document.fonts.ready")
    page.locator("main, section, h1").first.wait_for()
    expect(page.locator("[role=status]", has_text=" …")).to_have_count(0)
    page.wait_for_timeout(400)
    page.screenshot(path=path)


if __name__ == "__main__":
    main()
