"""A real browser against a real server; any console error or policy violation fails the test."""

from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright

from tests.conftest import CALL, PATIENCE_S

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


expect.set_options(timeout=PATIENCE_S * 500)


def launch(play: Playwright) -> Browser:
    """Start the browser without a window of its own: the full program draws its frame even when nobody sees it."""
    return play.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as play:
        chromium = launch(play)
        yield chromium
        chromium.close()


def watch(page: Page, server: str) -> list[str]:
    """Collect what must not happen on a page: errors, policy violations, and requests that leave the machine."""
    page.set_default_timeout(PATIENCE_S * 1000)
    troubles: list[str] = []
    # A refused edit answers 422 or 409 on purpose, and the browser notes that.
    page.on(
        "console",
        lambda message: troubles.append(message.text) if message.type == "error" and "status of 4" not in message.text else None,
    )
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on(
        "request",
        lambda request: (
            troubles.append(f"left the machine: {request.url}")
            if not request.url.startswith((server, "data:", "blob:"))
            else None
        ),
    )
    return troubles


@pytest.fixture
def page(browser: Browser, server: str) -> Iterator[Page]:
    context = browser.new_context(base_url=server, viewport={"width": 1280, "height": 800})
    page = context.new_page()
    troubles = watch(page, server)
    yield page
    context.close()
    assert troubles == []


@pytest.fixture
def open_plan(page: Page, server: str) -> Callable[[dict[str, object]], None]:
    """Open a project made from a plan."""

    def go(plan: dict[str, object]) -> None:
        project = CALL.post(f"{server}/api/projects/import", json=plan).json()
        page.goto(f"/projects/{project['id']}")
        page.get_by_role("heading", level=2).first.wait_for()

    return go


def find(page: Page, words: str) -> None:
    """Type into the finder that a key just opened, and take what it offers first."""
    expect(page.get_by_role("dialog", name="Find").get_by_role("combobox")).to_be_focused()
    page.keyboard.type(words)
    expect(page.get_by_role("option", selected=True)).to_contain_text(words, ignore_case=True)
    page.keyboard.press("Enter")


def choose(page: Page, name: str, *, typed: str) -> None:
    """Type into a list that a key just opened, and take the one it moves to.

    A list sets the focus on what is chosen now once it has found its place, and on what is typed a moment after
    the key: a hand is slower than either, a test is not, so it looks each time.
    """
    expect(page.locator("[role=option]:focus")).to_be_visible()
    page.keyboard.type(typed)
    expect(page.get_by_role("option", name=name)).to_be_focused()
    page.keyboard.press("Enter")
