"""Headless Chromium against a real server process on the test database."""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import Any, TypeVar

from django.conf import settings
from django.test import Client, override_settings
from playwright.sync_api import Browser as Chromium
from playwright.sync_api import ConsoleMessage, Page, Playwright, expect, sync_playwright

from nomothet.server.people.models import User
from tests.lasting import LASTING
from tests.server.base import BenchClient, Scene
from tests.server.emptied import EmptiedTest
from tests.server.live_server import LiveServer

T = TypeVar("T")

FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
# Long enough for a machine that others use too; a page that is right is there much sooner.
TIMEOUT_MS = int(os.environ.get("NOMOTHET_TEST_PATIENCE_MS", "40000"))
expect.set_options(timeout=TIMEOUT_MS)


class Shared:
    """A server, and a browser with the thread that everything about its pages runs in."""

    def __init__(self) -> None:
        self.server = LiveServer()
        LASTING.callback(self.server.__exit__, None, None, None)
        self.thread = LASTING.enter_context(ThreadPoolExecutor(1))
        self.playwright, self.chromium = self.thread.submit(self._launch).result()
        LASTING.callback(lambda: self.thread.submit(self._close).result())

    def _launch(self) -> tuple[Playwright, Chromium]:
        playwright = sync_playwright().start()
        return playwright, playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)

    def _close(self) -> None:
        self.chromium.close()
        self.playwright.stop()


@cache
def shared() -> Shared:
    """Those that all tests of this process share; started by the first that wants them."""
    return Shared()


@override_settings(PASSWORD_HASHERS=["tests.server.fast_hasher.FastArgon2"])
class BrowserTest(EmptiedTest):
    """Each test has a scene and a fresh page.

    Playwright's event loop and Django's database access must not share a thread: everything about the page runs in
    one thread of its own, handed over by `do`.
    """

    thread: ThreadPoolExecutor
    chromium: Chromium
    server: LiveServer

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.server, cls.thread, cls.chromium = shared().server, shared().thread, shared().chromium

    def setUp(self) -> None:
        self.scene = Scene()
        self.bench = BenchClient(self.scene.token)
        if not self.server.running:
            self.server.start()
        self.page = self.new_page()

    def new_page(self, **options: Any) -> Page:
        def make() -> Page:
            context = self.chromium.new_context(
                viewport={"width": 1280, "height": 800}, base_url=self.server.address, **options
            )
            context.set_default_timeout(TIMEOUT_MS)
            page = context.new_page()
            page.on("console", self._hear)
            page.on("pageerror", lambda error: self.complaints.append(str(error)))
            return page

        self.complaints: list[str] = []
        page = self.do(make)
        self.addCleanup(self.do, page.context.close)
        return page

    def _hear(self, message: ConsoleMessage) -> None:
        if message.type == "error":
            self.complaints.append(f"{message.text} {message.location.get('url', '')}".strip())

    def do(self, work: Callable[[], T]) -> T:
        """Run something about the page in the browser's thread."""
        return self.thread.submit(work).result()

    def sign_in(self, username: str, path: str = "/reviews") -> None:
        """Go to a page as somebody who has signed in before; the form itself has a test of its own."""
        client = Client()
        client.force_login(User.objects.get(username=username))
        session = client.cookies[settings.SESSION_COOKIE_NAME].value

        def work() -> None:
            self.page.context.add_cookies(
                [{"name": settings.SESSION_COOKIE_NAME, "value": session, "url": self.server.address}]
            )
            self.page.goto(path)
            self.page.get_by_role("link", name="Reviews", exact=True).wait_for()

        self.do(work)

    @property
    def matrix_path(self) -> str:
        return f"/reviews/{self.scene.review.pk}/matrix"
