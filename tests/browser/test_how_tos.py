"""The how-tos of the help section, each done word for word by somebody who has never seen the application."""

import re
from collections.abc import Callable, Iterator
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from nomothet.server.standings.tasks import prepare_results
from tests.browser.base import BrowserTest
from tests.server.base import steady

HOW_TOS = Path(__file__).resolve().parents[2] / "docs" / "help" / "how-to"
_WHERE = re.compile(r"\*An? (?P<role>\w+), (?:at (?P<path>\S+)|in the (?P<place>[^.]+?))\.\*")
_PLACES = {"matrix": "/matrix?lens=progress", "brief": "/brief", "findings": "/findings", "verdict": "/verdict"}
_ROLES = ("button", "tab", "link", "menuitem", "checkbox", "radio")


def _within(page: Page) -> Page | Locator:
    """The dialog where one is open, else the page."""
    dialogs = page.get_by_role("dialog")
    return dialogs.last if dialogs.count() else page


def _control(page: Page, name: str, which: str | None) -> Locator:
    """What is pressed: a control of this very name, in the dialog where one is open."""
    within = _within(page)
    # A tab shows its key before its name.
    named = re.compile(rf"^\d?\s*{re.escape(name)}$")
    found = within.get_by_role("button", name=named)
    for role in _ROLES[1:]:
        found = found.or_(within.get_by_role(role, name=named))  # type: ignore[arg-type]
    return found.first if which else found


def _field(page: Page, label: str, which: str | None) -> Locator:
    found = _within(page).get_by_label(label)
    return found.last if which == "last" else found.first


def _choose(select: Locator, option: str) -> None:
    select.select_option(select.locator("option").filter(has_text=option).first.get_attribute("value"))


def _press(page: Page, name: str, which: str | None = None) -> None:
    if name.startswith("Ctrl+"):
        page.keyboard.press(f"Control+{name[5:].lower()}")
    else:
        _control(page, name, which).click()


_STEPS: tuple[tuple[re.Pattern[str], Callable[..., None]], ...] = tuple(
    (re.compile(pattern), act)
    for pattern, act in (
        (r"Press the key \*\*(.+?)\*\*", lambda page, key: page.keyboard.press(key)),
        (
            r"Press \*\*(.+?)\*\* and type “(.+?)”",
            lambda page, key, text: (_press(page, key), page.keyboard.type(text)),
        ),
        (r"Press \*\*(.+?)\*\*(?: \(the (\w+)\))?", _press),
        (
            r"Fill \*\*(.+?)\*\*(?: \(the (\w+)\))? with “(.+?)”",
            lambda page, label, which, text: _field(page, label, which).fill(text),
        ),
        (
            r"Choose “(.+?)” in \*\*(.+?)\*\*",
            lambda page, option, label: _choose(_field(page, label, None), option),
        ),
        (r"Type “(.+?)”", lambda page, text: page.keyboard.type(text)),
        (r"Go to the first cell", lambda page: page.locator("[role=gridcell]").first.focus()),
        (
            r"Go to the last cell of the first row",
            lambda page: page.locator("[role=gridcell][data-at^='0.']").last.focus(),
        ),
        (r"You see “(.+?)”", lambda page, text: expect(page.get_by_text(text).first).to_be_visible()),
    )
)


def _do(page: Page, step: str) -> None:
    for pattern, act in _STEPS:
        found = pattern.match(step)
        if found:
            act(page, *found.groups())
            return
    raise AssertionError(f"nobody could do {step!r}")


def _steps(text: str) -> Iterator[str]:
    for line in text.splitlines():
        if found := re.match(r"\d+\. (.+)", line):
            yield found[1]


class HowTos(BrowserTest):
    def begin(self, where: "re.Match[str]") -> None:
        role, place = where["role"], where["place"] or ""
        if "with passes" in place:
            for column, rate in ((0, 60.0), (1, 54.0)):
                self.scene.owe(column=column, count=3)
                for seed in range(3):
                    self.bench.deliver(steady(rate, seed=seed))
            prepare_results.call()
        path = where["path"] or "/standings"
        for name, end in _PLACES.items():
            if place.startswith(name):
                path = f"/reviews/{self.scene.review.pk}{end}"
        self.sign_in(role, path)
        self.do(lambda: self.page.locator("main").wait_for())

    def follow(self, number: int) -> None:
        (path,) = HOW_TOS.glob(f"{number:02}-*.md")
        text = path.read_text(encoding="utf-8")
        where = _WHERE.search(text)
        assert where is not None, f"{path.name} does not say who begins where"
        self.begin(where)
        for step in _steps(text):
            with self.subTest(how_to=path.name, step=step):
                self.do(lambda step=step: _do(self.page, step))  # type: ignore[misc]
        self.assertEqual(self.complaints, [])

    def test_each_has_a_test(self) -> None:
        numbers = {int(path.name[:2]) for path in HOW_TOS.glob("*.md")}
        self.assertEqual(numbers, set(range(1, len(numbers) + 1)))
        self.assertTrue(all(hasattr(self, f"test_{number:02}") for number in numbers))

    def test_01(self) -> None:
        self.follow(1)

    def test_02(self) -> None:
        self.follow(2)

    def test_03(self) -> None:
        self.follow(3)

    def test_04(self) -> None:
        self.follow(4)

    def test_05(self) -> None:
        self.follow(5)

    def test_06(self) -> None:
        self.follow(6)

    def test_07(self) -> None:
        self.follow(7)

    def test_08(self) -> None:
        self.follow(8)

    def test_09(self) -> None:
        self.follow(9)

    def test_10(self) -> None:
        self.follow(10)
