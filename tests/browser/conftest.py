"""Chromium, and hands for it."""

import re
from collections.abc import Callable, Iterator
from functools import cache

import pytest
from playwright.sync_api import (
    Browser,
    BrowserContext,
    Page,
    Playwright,
    StorageState,
    expect,
    sync_playwright,
)

from eldrim.demo.process import DemoProcess
from tests.browser.hands import CHROMIUM, FLAGS

# How long something may take before it counts as not happening: a busy machine stalls for seconds.
PATIENCE = 30_000
expect.set_options(timeout=PATIENCE)


@pytest.fixture(scope="session")
def play() -> Iterator[Playwright]:
    """What drives browsers; there can be one at a time."""
    with sync_playwright() as found:
        yield found


@pytest.fixture(scope="session")
def chromium(play: Playwright) -> Iterator[Browser]:
    """Debian's Chromium, headless."""
    browser = play.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    yield browser
    browser.close()


@pytest.fixture(scope="session")
def signed_in(chromium: Browser, demo: DemoProcess) -> Callable[[str], StorageState]:
    """Signs each demo person in once; what their browser keeps of it."""

    @cache
    def sign_in(name: str) -> StorageState:
        context = chromium.new_context(base_url=demo.address)
        context.set_default_timeout(PATIENCE)
        page = context.new_page()
        page.goto("/sign-in")
        page.fill("#name", name)
        page.fill("#password", "eldrim-demo")
        page.press("#password", "Enter")
        page.wait_for_url(lambda url: not url.endswith("/sign-in"))
        kept = context.storage_state()
        context.close()
        return kept

    return sign_in


@pytest.fixture
def person(
    request: pytest.FixtureRequest,
    chromium: Browser,
    demo: DemoProcess,
    signed_in: Callable[[str], StorageState],
) -> Iterator["People"]:
    """Opens a browser window for a demo person; any error in a page fails the test.

    Pages are kept for when there is no link only in tests marked ``keeps``: it takes each window a
    second to keep them.
    """
    people = People(chromium, demo, signed_in)
    people.keeps = request.node.get_closest_marker("keeps") is not None
    yield people
    people.close()


class People:
    """Windows of several people at once."""

    def __init__(
        self, browser: Browser, demo: DemoProcess, signed_in: Callable[[str], StorageState]
    ) -> None:
        """Nobody yet."""
        self.browser, self.demo, self.signed_in = browser, demo, signed_in
        self.keeps = False
        self.errors: list[str] = []
        # What a test brings about on purpose, by a part of the message.
        self.expected: list[str] = []
        self.contexts: list[BrowserContext] = []

    def __call__(
        self, name: str, width: int = 1280, height: int = 800, touch: bool = False
    ) -> Page:
        """A window of ``name``, signed in, on a screen of this size."""
        context = self.browser.new_context(
            base_url=self.demo.address,
            viewport={"width": width, "height": height},
            has_touch=touch,
            reduced_motion="reduce",
            service_workers="allow" if self.keeps else "block",
            storage_state=self.signed_in(name),
        )
        context.set_default_timeout(PATIENCE)
        self.contexts.append(context)
        page = context.new_page()
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.on("console", self._listen)
        return page

    def _listen(self, message) -> None:  # type: ignore[no-untyped-def]
        # What is refused or held answers 409 or 422 on purpose, which Chromium also logs.
        known = any(part in message.text for part in self.expected)
        if message.type == "error" and not known and not re.search(r"\b(409|422)\b", message.text):
            self.errors.append(f"{message.text} {message.location.get('url', '')}")

    def close(self) -> None:
        """Close all windows and complain about what went wrong in them."""
        for context in self.contexts:
            context.close()
        assert self.errors == []
