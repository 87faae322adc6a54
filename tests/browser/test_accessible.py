"""Every screen and its dialogs, looked at by axe-core in both schemes: WCAG 2.1 A and AA."""

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

from nomothet.server.people.preferences import set_preferences
from nomothet.server.standings.tasks import prepare_results
from nomothet.server.systems.models import System
from tests.browser.base import BrowserTest
from tests.server.base import Browser, steady

_AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
_TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"]
# What can be wrong in one scheme and right in the other.
_OF_COLOUR = ["color-contrast", "link-in-text-block"]
_SHEETS = (
    "brief", "matrix?lens=progress", "matrix?lens=figures", "matrix?lens=versus", "matrix?lens=limits",
    "matrix?lens=economy", "findings", "verdict",
)  # fmt: skip
_PLACES = (
    "/reviews", "/systems", "/shelf", "/workloads", "/standings", "/standings?as=time", "/standings?as=price",
    "/follow-ups", "/inbox", "/account", "/people", "/installation", "/help", "/help/method", "/help/glossary",
    "/first", "/nowhere",
)  # fmt: skip
# Dialogs by where they are opened, {review} and {system} filled in, and the button that opens each; after a bar the
# choice in its menu.
_DIALOGS = {
    "/reviews": ("Ask a question",),
    "/systems": ("Add a system",),
    "{system}": (
        "History", "Edit the system", "Add one", "The same, but …", "Edit", "Issue a new token", "Note a follow-up",
    ),
    "/shelf": ("Paste several", "Add a part"),
    "/workloads": ("Add a workload", "New edition"),
    "/standings": ("save what is shown", "keep in a set"),
    "/follow-ups": ("In your calendar",),
    "/account": ("Begin a second factor",),
    "/people": ("Invite somebody",),
    "{review}/brief": (
        "A factor that is no setting", "Paste a table", "Add a configuration", "Keep as a set", "Metrics", "Add tests",
        "Edit Reef Walk 2, kelp tunnel", "Copy Reef Walk 2, kelp tunnel: put it in another review",
        "figures from outside", "Note a follow-up",
    ),
    "{review}/findings": ("Draw another",),
    "{review}/verdict": ("What the metrics mean, for readers", "Publish edition 1"),
    "{review}/matrix?lens=progress": (
        "Ask for passes", "Bring in files", "Look at the evidence|What is missing",
        "Look at the evidence|Pairs of tests", "Look at the evidence|How much memory is enough",
        "Look at the evidence|Specified against measured", "Look at the evidence|What recording costs",
        "Look at the evidence|Pictures beside each other",
    ),
}  # fmt: skip


class Accessible(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        for column, rate in ((0, 60.0), (1, 54.0)):
            self.scene.owe(column=column, count=3)
            for seed in range(3):
                self.bench.deliver(steady(rate, seed=seed))
        prepare_results.call()

    def look(self, where: str) -> list[str]:
        """What is wrong with what is shown now, one line each."""
        return self.told(where, self.do(self.violations))

    def violations(self, within: str = "body") -> list[dict[str, Any]]:
        """Everything in light; what dark may change is looked at in dark too."""
        page = self.page
        page.wait_for_load_state("networkidle")
        if not page.evaluate("() => 'axe' in window"):
            page.evaluate(_AXE.read_text(encoding="utf-8"))
        found = self.run_axe(within, {"type": "tag", "values": _TAGS})
        self.draw("dark")
        for one in self.run_axe(within, {"type": "rule", "values": _OF_COLOUR}):
            found.append({**one, "id": f"{one['id']} in dark"})
        self.draw("light")
        return found

    def draw(self, scheme: Literal["light", "dark"]) -> None:
        """The machine changes its scheme, and the page with it."""
        self.page.emulate_media(color_scheme=scheme)
        # The pages of records leave it to their style.
        self.page.wait_for_function(
            "scheme => [undefined, scheme].includes(document.documentElement.dataset.scheme)", arg=scheme
        )

    def run_axe(self, within: str, only: dict[str, Any]) -> list[dict[str, Any]]:
        asked = {"include": [within]} if within != "body" else "document"
        found: list[dict[str, Any]] = self.page.evaluate(
            """([asked, only]) => axe.run(asked === "document" ? document : asked, {runOnly: only})
                .then(found => found.violations)""",
            [asked, only],
        )
        return found

    def told(self, where: str, found: list[dict[str, Any]]) -> list[str]:
        return [
            f"{where}: {one['id']} ({one['help']}): {node['html'][:160]} {node.get('failureSummary', '')[:300]}"
            for one in found
            for node in one["nodes"][:3]
        ]

    def go(self, path: str) -> None:
        def work() -> None:
            self.page.goto(path)
            self.page.locator("main, [role=main], h1").first.wait_for()

        self.do(work)

    def after(self, act: Callable[[], object]) -> None:
        self.do(act)

    def every_screen(self) -> list[str]:
        # The pages follow the machine.
        set_preferences(self.scene.people["admin"], scheme="system")
        system = System.objects.get(key="wren")
        self.sign_in("admin")
        review = f"/reviews/{self.scene.review.pk}"
        found = []
        for path in (
            *_PLACES,
            f"/systems/{system.pk}",
            f"/systems/{system.pk}/docket",
            *(f"{review}/{s}" for s in _SHEETS),
        ):
            self.go(path)
            found += self.look(path)
        for name, act in self.shown_by_keys(review):
            self.after(act)
            found += self.look(name)
        for path, buttons in _DIALOGS.items():
            found += self.dialogs(path.format(review=review, system=f"/systems/{system.pk}"), buttons)
        return found

    def dialogs(self, path: str, buttons: tuple[str, ...]) -> list[str]:
        """What is wrong with the dialogs of a screen; each is closed by Escape."""
        page, found = self.page, []

        def work() -> None:
            page.goto(path)
            page.locator("main, [role=main], h1").first.wait_for()
            dialog = page.get_by_role("dialog")
            for button in buttons:
                name, _, choice = button.partition("|")
                page.get_by_role("button", name=name, exact=True).first.click()
                if choice:
                    page.get_by_role("menuitem", name=choice).click()
                dialog.wait_for()
                found.extend(self.told(f"{path}, {button}", self.violations("[role=dialog], dialog[open]")))
                page.keyboard.press("Escape")
                dialog.wait_for(state="detached")

        self.do(work)
        return found

    def shown_by_keys(self, review: str) -> list[tuple[str, Callable[[], object]]]:
        page = self.page

        def pane() -> None:
            page.goto(f"{review}/matrix?lens=figures")
            page.locator("[role=gridcell]").first.click()
            page.get_by_role("region", name="Chosen cells").or_(page.locator("canvas")).first.wait_for()

        def keys() -> None:
            page.goto("/reviews")
            page.get_by_role("link", name="Reviews", exact=True).wait_for()
            page.keyboard.press("?")
            page.get_by_role("dialog").wait_for()

        def palette() -> None:
            page.goto("/reviews")
            page.get_by_role("link", name="Reviews", exact=True).wait_for()
            page.keyboard.press("Control+k")
            page.get_by_role("combobox").fill("wren")
            page.get_by_role("option").first.wait_for()

        return [("a cell", pane), ("keys", keys), ("palette", palette)]

    def all_well(self, found: list[str]) -> None:
        """Fails with each thing once, where it was seen first."""
        once = {line.partition(": ")[2]: line for line in reversed(found)}
        self.assertFalse(once, "\n".join(once.values()))

    def test_the_pages_go_dark_with_the_machine(self) -> None:
        set_preferences(self.scene.people["admin"], scheme="system")
        self.sign_in("admin")
        shown = "() => getComputedStyle(document.documentElement).backgroundColor"

        def work() -> tuple[str, str]:
            light = self.page.evaluate(shown)
            self.draw("dark")
            return light, self.page.evaluate(shown)

        light, dark = self.do(work)
        self.assertGreater(sum(_numbers(light)), 3 * 128)
        self.assertLess(sum(_numbers(dark)), 3 * 128)

    def test_every_screen_and_dialog(self) -> None:
        self.all_well(self.every_screen())

    def test_pages_for_everybody(self) -> None:
        answer = Browser("editor").send("post", f"/api/reviews/{self.scene.review.pk}/records", {})
        found = []
        for path in (f"/records/{answer.json()['slug']}", f"/records/{answer.json()['slug']}/captures"):
            self.go(path)
            found += self.look(path)
        self.all_well(found)


def _numbers(colour: str) -> list[int]:
    """Red, green and blue of `rgb(…)`."""
    return [int(part) for part in re.findall(r"\d+", colour)[:3]]
