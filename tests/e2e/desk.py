"""What a new user does at the desk, in the words of the screen."""

import re
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Locator, Page, expect

from tests.conftest import CALL


def start(page: Page, server: str, what: str, *, board: str | None = None) -> None:
    """Open a project from nothing: choose a board if one is given, then what to light."""
    project = CALL.post(f"{server}/api/projects", json={"start": "empty"}).json()["id"]
    page.goto(f"/projects/{project}")
    if board is not None:
        pick(page, "Driven by", board)
        expect(page.get_by_role("combobox", name="Driven by", exact=True)).to_have_text(re.compile(re.escape(board)))
    # The small projects that stand between may be there or not yet, and one of them is called much the same.
    lists = page.locator("section[aria-labelledby=opening] > ul, ul[aria-label='Or something else']")
    lists.get_by_role("button", name=what).first.click()
    page.get_by_role("heading", level=2).first.wait_for()


@contextmanager
def whole_line(page: Page) -> Iterator[Locator]:
    """The line, opened whenever it folds to a ribbon: it may at any moment, while a sheet is still scrolling."""
    line = page.get_by_label("The line, thumb to lamp")
    opener = line.get_by_role("button", name="Open the line", exact=True)
    page.add_locator_handler(opener, lambda: opener.click())
    yield line
    page.remove_locator_handler(opener)


def go(page: Page, name: str) -> None:
    """Choose a stage of the line."""
    with whole_line(page) as line:
        line.get_by_role("button", name=name).first.click()


def press(page: Page, name: str) -> None:
    """Press the first button that says this."""
    page.get_by_role("button", name=name).first.click()


def pick(page: Page, label: str, option: str) -> None:
    """Take one of a list."""
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option).first.click()


def fill(page: Page, label: str, text: str) -> None:
    """Type into a field."""
    page.get_by_label(label, exact=True).first.fill(text)
    page.get_by_label(label, exact=True).first.press("Enter")


def verdict(page: Page, mark: str, text: str) -> None:
    """See a verdict with its mark."""
    row = page.get_by_label("Verdicts", exact=True).get_by_role("listitem").filter(has_text=text)
    expect(row.first.get_by_role("img", name=mark, exact=True)).to_be_visible()


def more(page: Page, name: str) -> None:
    """Press something under More, by keyboard."""
    page.get_by_role("button", name="More", exact=True).press("Enter")
    page.get_by_role("menuitem", name=name).press("Enter")


# Keystroke-level model, from memory: a press 0.28 s, a pointing with its press 1.1 s.
PRESS_S, POINTING_S = 0.28, 1.1


class Hands:
    """Types and points as a maker does, and counts it."""

    def __init__(self, page: Page) -> None:
        self.page, self.presses, self.pointings = page, 0, 0

    def press(self, key: str) -> None:
        self.page.keyboard.press(key)
        self.presses += 1

    def type(self, text: str) -> None:
        self.page.keyboard.type(text)
        self.presses += len(text) + sum(it.isupper() or it in ':"_+' for it in text)  # Shift is a press as well

    def point(self, role: str, name: str) -> None:
        self.at(self.page.get_by_role(role, name=name, exact=role == "textbox").first)  # type: ignore[arg-type]

    def at(self, place: Locator) -> None:
        place.click()
        self.pointings += 1

    def to(self, label: str) -> None:
        """Go on to a field with Tab: past the little word that says where the last value is from."""
        field = self.page.get_by_role("textbox", name=label, exact=True)
        for _ in range(12):
            self.press("Tab")
            if field.evaluate("it => it === document.activeElement"):
                return
        raise AssertionError(f"{label} is not reached by Tab")

    @property
    def takes_s(self) -> float:
        return self.presses * PRESS_S + self.pointings * POINTING_S
