"""The page that a board's own program serves: the compiled program in real time, a real browser, and the rehearsal as the measure."""

import socket
from collections.abc import Iterator
from http.client import HTTPConnection
from typing import Any
from urllib.request import urlopen

import pytest
from playwright.sync_api import Browser, Page, expect

from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.firmware.facts import Facts
from oddlamp.core.plan.document import Document, merge_patch
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from tests.e2e.conftest import watch
from tests.e2e.test_access import violations
from tests.firmware.served import Board
from tests.firmware.star import STAR, TITLE

pytestmark = pytest.mark.e2e
PAGE_MOST_BYTES = 12_000


@pytest.fixture(scope="module", params=["websocket", "http"])
def board(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Board]:
    whole = merge_patch(STAR, {"links": {"lan": {"transport": request.param}}})
    it = Board(whole, tmp_path_factory.mktemp("board"))
    yield it
    it.end()


@pytest.fixture
def phone(browser: Browser, board: Board) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 375, "height": 720})
    page = context.new_page()
    troubles = watch(page, board.address)
    page.goto(board.address)
    expect(page.get_by_role("status").first).to_have_text("The lamp is there.")
    yield page
    context.close()
    assert troubles == []


def rehearsed(board: Board, *events: Document) -> dict[int, int]:
    """What each lamp's pin shows in the end, as the rehearsal has it, in the steps of the board's own dimming."""
    trace, facts = (
        rehearse_design(board.design, read_events(list(events))),
        Facts(board.design, program_of(board.design, "board")),
    )
    made, found = facts.all(), dict[int, int]()
    numbers = {it["name"]: (int(it["pin"]), it["line"].id) for it in made["pins_told"]}
    for it in made["pins"]:
        number, line = numbers[it["pin"]]
        shows = trace.pins[line][-1].shows
        found[number] = (2 * shows * it["top"] + 255) // 510 if it["kind"] == "DIMMED" else shows
    return found


def moved(name: str, t_s: float = 0.1, **values: Any) -> Document:
    return {"kind": "control", "t_s": t_s, "node": "phone", "control": name, "gesture": "move", "values": values}


def pressed(name: str, gesture: str, t_s: float = 0.1) -> Document:
    return {"kind": "control", "t_s": t_s, "node": "phone", "control": name, "gesture": gesture}


def test_what_is_pressed_and_moved_lights_what_was_rehearsed(board: Board, phone: Page) -> None:
    """Press, slide, lean, colour and type, by pointer and by keyboard: each pin comes to where the rehearsal puts it."""
    done = list[Document]()

    def agrees(*events: Document) -> None:
        done.extend({**it, "t_s": len(done) + 0.1} for it in events)
        wanted = rehearsed(board, *done)
        board.wait_for(lambda: all(board.shows.get(pin) == shows for pin, shows in wanted.items()))

    light = phone.get_by_role("paragraph").filter(has_text="Is it lit")
    moon = phone.get_by_role("button", name="Moon")
    moon.click()
    agrees(pressed("moon", "on"))
    expect(moon).to_have_attribute("aria-pressed", "true")
    expect(light).to_contain_text("bright")
    dim = phone.get_by_role("slider", name="V", exact=True)
    dim.fill("40")
    agrees(moved("dim", v=40))
    expect(light).to_contain_text("dim")
    dim.press("ArrowRight")
    agrees(moved("dim", v=41))
    phone.get_by_label("Tint").fill("#102080")
    agrees(moved("tint", r=16, g=32, b=128))
    stick = phone.get_by_role("slider", name="Lean, a stick")
    stick.press("ArrowRight")
    expect(stick).to_have_attribute("aria-valuetext", "X 154, Y 128")
    agrees(moved("lean", x=154, y=128))
    stick.press("Home")
    agrees(moved("lean", x=128, y=128))
    phone.get_by_label("Note").fill("Hello \u00e9")
    phone.get_by_role("button", name="Send").press("Enter")
    agrees(moved("note", text="Hello "))
    bell = phone.get_by_role("button", name="Bell")
    bell.focus()
    phone.keyboard.down("Enter")
    agrees(pressed("bell", "press"))
    phone.keyboard.up("Enter")
    agrees(pressed("bell", "release"))
    moon.press(" ")
    agrees(pressed("moon", "off"))
    expect(light).to_contain_text("dim")


def test_the_page_is_small_and_can_be_used_by_everybody(board: Board, phone: Page) -> None:
    with urlopen(board.address, timeout=10) as answer:
        assert len(answer.read()) < PAGE_MOST_BYTES
    expect(phone.get_by_role("heading", name=TITLE)).to_be_visible()
    for theme in ("light", "dark"):
        phone.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
        assert violations(phone) == []


def asked(board: Board, path: str, body: bytes = b"", **headers: str) -> int:
    line = HTTPConnection("127.0.0.1", board.ports[0], timeout=10)
    line.request("POST", path, body, headers)
    answer = line.getresponse()
    line.close()
    return answer.status


def test_what_is_no_page_of_its_own_may_not_speak(board: Board) -> None:
    """Another page in the same browser gets nowhere; what is asked by no page, or wrongly, harms nothing."""
    assert asked(board, "/say", b"+\n", Origin="http://elsewhere.test") == 403
    assert asked(board, "/say", b"-\n", Origin=board.address) == 204
    assert asked(board, "/say", b"-\n") == 204
    assert asked(board, "/say", b"-\n", Referer=f"{board.address}/") == 204
    assert asked(board, "/say", b"+\n", Referer="http://elsewhere.test/page") == 403
    assert asked(board, "/say", b"+\n", Origin="null") == 403
    assert asked(board, "/nothing") == 404
    assert asked(board, "/say", b"", **{"X-Long": "x" * 5000}) == 204
    raw = socket.create_connection(("127.0.0.1", board.ports[0]), timeout=15)
    raw.sendall(b"\0\xff" * 3000 + b"\r\n\r\n")
    assert raw.recv(100).startswith(b"HTTP/1.1 404")
    raw.close()


def test_a_phone_that_comes_while_others_are_there_is_let_in_when_one_leaves(board: Board, browser: Browser) -> None:
    """Four are let in at once; who waits is let in as soon as there is room."""
    if board.design.airs["lan"].transport.id != "websocket":
        return
    contexts = [browser.new_context() for _ in range(5)]
    pages = [it.new_page() for it in contexts]
    for it in pages[:4]:
        it.goto(board.address)
        expect(it.get_by_role("status").first).to_have_text("The lamp is there.")
    contexts[0].close()
    pages[4].goto(board.address)
    expect(pages[4].get_by_role("status").first).to_have_text("The lamp is there.")
    pages[4].get_by_role("slider", name="V", exact=True).fill("200")
    expect(pages[1].get_by_role("paragraph").filter(has_text="Is it lit")).to_contain_text("bright")
    for it in contexts[1:]:
        it.close()
