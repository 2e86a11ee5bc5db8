"""Debian's headless Chromium through Playwright."""

import re
from collections.abc import Iterator
from contextlib import contextmanager
from urllib.parse import urlsplit

from playwright.sync_api import (
    Browser,
    BrowserContext,
    Locator,
    Page,
    expect,
    sync_playwright,
)

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--force-color-profile=srgb",
    "--font-render-hinting=none",
]
SIZE = {"width": 1280, "height": 800}
PATIENCE = 180_000  # ms; other tests run beside these, and the computer may be slow
LOOPBACK = ("127.0.0.1", "localhost", "")


@contextmanager
def chromium() -> Iterator[Browser]:
    expect.set_options(timeout=PATIENCE)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield browser
        browser.close()


class Watched:
    """A browser context that notes console errors and requests that leave this computer."""

    def __init__(self, browser: Browser, theme: str = "light") -> None:
        self.faults: list[str] = []
        self.context: BrowserContext = browser.new_context(viewport=SIZE, color_scheme=theme)  # type: ignore[arg-type]
        self.context.set_default_timeout(PATIENCE)
        self.page: Page = self.context.new_page()
        self.page.on("pageerror", lambda e: self.faults.append(f"page error: {e}"))
        self.page.on("console", self._on_console)
        self.page.on("request", lambda r: self._on_request(r.url))

    def _on_console(self, message: object) -> None:
        text = str(getattr(message, "text", ""))
        # The browser itself logs every answer of 4xx; the page shows those in words.
        if getattr(message, "type", "") == "error" and "Failed to load resource" not in text:
            self.faults.append(text)

    def _on_request(self, url: str) -> None:
        if (urlsplit(url).hostname or "") not in LOOPBACK:
            self.faults.append(f"request to {url}")

    def sign_in(self, address: str, name: str) -> Page:
        self.page.goto(address)
        self.page.fill("[name=username]", name)
        self.page.fill("[name=password]", f"demo-{name}")
        self.page.click("text=Sign in")
        self.page.wait_for_selector("h1:has-text('Projects')")
        return self.page


def found_at(page: Page, port: int) -> Locator:
    """What was found on the network there; other tests' devices may answer elsewhere."""
    return page.get_by_role("listitem").filter(has_text=re.compile(rf":{port}(?!\d)"))


def have_it_be(page: Page, fault: str) -> None:
    """Put the chosen stand-in's input into a state; it is in it when this comes back."""
    with page.expect_response("**/faults") as answer:
        page.get_by_label("Have it be").select_option(label=fault)
    assert answer.value.status == 204
