"""At the module, in a real browser: a script walked against a stand-in and a port, a log read back, silence, a blink."""

import os
import pty
import re
import select
import threading
import tty
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from oddlamp.catalog.load import load_catalog, start_data
from oddlamp.core.modules.stand_in import StandIn
from oddlamp.core.modules.uart import Port
from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR
from tests.conftest import CALL, running_server
from tests.e2e.conftest import watch
from tests.e2e.test_access import violations
from tests.full import some

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]


def at_module(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    page.keyboard.press("o")
    expect(page).to_have_url(re.compile("/module$"))
    page.get_by_role("button", name="Talk to it").wait_for()


def test_a_script_walks_by_itself_and_says_what_it_reached(page: Page, open_plan: Open) -> None:
    at_module(page, open_plan)
    page.get_by_role("button", name="Talk to it").press("Enter")
    page.get_by_role("button", name="Walk the rest by itself").press("Enter")
    expect(page.get_by_role("heading", level=2)).to_have_text("It is what the plan says.", timeout=60_000)
    expect(page.get_by_label("What was said").get_by_text("it is kept: its name").first).to_be_visible()
    assert violations(page) == []


def test_what_is_typed_is_answered_and_explained(page: Page, open_plan: Open) -> None:
    at_module(page, open_plan)
    page.get_by_role("button", name="Talk to it").press("Enter")
    power = page.get_by_role("button", name=re.compile("^Power"))
    power.press("Enter")
    page.get_by_role("button", name=re.compile("^Key")).press("Enter")
    power.press("Enter")
    expect(page.get_by_text("set-up mode").first).to_be_visible()
    field = page.get_by_label("Say to the module")
    field.fill("AT+NAME?")
    field.press("Enter")
    said = page.get_by_label("What was said")
    expect(said.get_by_text("asks its name")).to_be_visible()
    expect(said.get_by_text(re.compile("^its name is "))).to_be_visible()
    field.press("ArrowUp")
    expect(field).to_have_value("AT+NAME?")
    field.fill("at")
    field.press("Enter")
    expect(said.get_by_text("it refuses that")).to_be_visible()


@pytest.mark.parametrize(
    ("trouble", "mend"),
    some(
        [
            ("TX and RX swapped", "Swap TX and RX"),
            ("it is dead", "Take another module"),
            ("no ground in common", "Join the grounds"),
        ],
        2,
    ),
)
def test_a_silent_one_is_found_out_and_mended(page: Page, open_plan: Open, trouble: str, mend: str) -> None:
    """From silence to an answer: the causes are one press away, and what each asks for can be done at once."""
    at_module(page, open_plan)
    page.get_by_label("Trouble").select_option(label=trouble)
    page.get_by_role("button", name="Talk to it").press("Enter")
    said, field = page.get_by_label("What was said"), page.get_by_label("Say to the module")
    expect(page.get_by_text(re.compile(": off|: waiting"))).to_be_visible()
    # A module of this family hears commands with its key up when its power comes.
    for name in ("Power", "Key", "Power"):
        page.get_by_role("button", name=re.compile(f"^{name}")).press("Enter")
    field.fill("AT")
    field.press("Enter")
    page.get_by_role("button", name="Why nothing comes").press("Enter")
    expect(page.get_by_role("heading", name="Nothing came at all.")).to_be_visible()
    expect(page.get_by_text(re.compile("^TX and RX are swapped"))).to_be_visible()
    page.get_by_role("button", name=mend).press("Enter")
    for name in ("Power", "Key", "Power") if mend == "Take another module" else ():
        page.get_by_role("button", name=re.compile(f"^{name}")).press("Enter")
    field.fill("AT")
    field.press("Enter")
    expect(said.get_by_text("OK", exact=True)).to_be_visible()


def test_one_whose_speed_is_unknown_is_set_in_three_actions(page: Page, open_plan: Open) -> None:
    at_module(page, open_plan)
    page.get_by_label("Trouble").select_option(label="it speaks at another speed")
    page.get_by_role("button", name="Talk to it").press("Enter")
    page.get_by_role("button", name="Walk the rest by itself").press("Enter")
    expect(page.get_by_role("heading", level=2)).to_have_text("It is what the plan says.", timeout=60_000)


def test_a_log_is_read_back_and_taken_with_one_press(page: Page, open_plan: Open, server: str) -> None:
    at_module(page, open_plan)
    log = "> AT\n< OK\n> AT+VERSION?\n< +VERSION:2.0\n< OK\n> AT+NAME=STAGE <b>\n< OK\n> AT+UART=38400,0,0\n< OK\n"
    page.get_by_label(re.compile("^Paste what it said")).fill(log)
    page.get_by_role("button", name="Read it").press("Enter")
    expect(page.get_by_role("heading", name="It is classic serial module, both roles.")).to_be_visible()
    page.get_by_role("button", name=re.compile(r"^Take \d things? into the plan")).press("Enter")
    project = page.url.split("/projects/")[1].partition("/")[0]
    expect(page.get_by_role("status").first).to_have_text(re.compile("change 1$"))
    plan = CALL.get(f"{server}/api/projects/{project}/plan").json()
    setup = next(it["setup"] for it in plan["nodes"].values() if it["kind"] == "module")
    assert (setup["name"], setup["found_bd"]) == ("STAGE <b>", 38400)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("status").first).not_to_have_text(re.compile("change 1$"))
    assert violations(page) == []


def test_the_blink_that_is_seen_says_its_state(page: Page, open_plan: Open) -> None:
    at_module(page, open_plan)
    page.get_by_role("button", name=re.compile("^2 s lit, 2 s dark")).press("Enter")
    expect(page.get_by_text(re.compile("^Set-up mode"))).to_be_visible()
    tap = page.get_by_role("button", name=re.compile("^Tap here"))
    for _ in range(4):
        tap.press("Space")
    expect(page.get_by_text(re.compile("No blink of it goes so|^Waiting|or linked"))).to_be_visible()


@pytest.mark.parametrize(("width", "theme"), some([(375, "dark"), (720, "light"), (320, "light")], 3))
def test_it_fits_any_window(page: Page, open_plan: Open, width: int, theme: str) -> None:
    page.set_viewport_size({"width": width, "height": 740})
    page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
    at_module(page, open_plan)
    page.get_by_role("button", name="Talk to it").press("Enter")
    page.get_by_label("Say to the module").wait_for()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    assert violations(page) == []


class Hung:
    """A stand-in on a pseudo-terminal, as a module hangs on an adapter under a name of its own; it can be pulled out and put back."""

    def __init__(self, name: Path) -> None:
        self.module = StandIn(load_catalog().dialects["family-a"], is_key_up=True)
        self.name, self.at_s = name, 0.0
        self.module.power(0.0, is_on=True)
        self.plug()

    def plug(self) -> None:
        self.mine, self.theirs = pty.openpty()
        tty.setraw(self.theirs)
        self.name.symlink_to(os.ttyname(self.theirs))
        self.is_in = True
        self.thread = threading.Thread(target=self._answer)
        self.thread.start()

    def pull(self) -> None:
        self.name.unlink()
        self.is_in = False
        self.thread.join()
        for it in (self.theirs, self.mine):
            os.close(it)

    def _answer(self) -> None:
        while self.is_in:
            if not select.select([self.mine], [], [], 0.05)[0]:
                continue
            self.at_s += 5
            for it in self.module.hear_at(self.at_s, os.read(self.mine, 400), Port(38_400)):
                if it.to == "wire":
                    os.write(self.mine, it.content)


@pytest.fixture
def hung(tmp_path: Path) -> Iterator[Hung]:
    it = Hung(tmp_path / "adapter")
    yield it
    it.pull()


@pytest.fixture
def bench(browser: Browser, hung: Hung, tmp_path: Path) -> Iterator[Page]:
    """A page at the module, of a server that may open the adapter."""
    with running_server(tmp_path / "o.sqlite3", serial_ports=(str(hung.name),)) as server:
        context = browser.new_context(base_url=server)
        page = context.new_page()
        watch(page, server)
        project = CALL.post(f"{server}/api/projects/import", json=CLEAR).json()["id"]
        page.goto(f"/projects/{project}/module")
        page.get_by_role("button", name="A real port instead").press("Enter")
        page.get_by_label("Port").fill(str(hung.name))
        page.get_by_role("button", name="Open the port").press("Enter")
        yield page
        context.close()


def at_the_first_word(page: Page) -> None:
    for _ in range(5):  # wiring, power off, key, power on, the terminal
        page.get_by_role("button", name=re.compile("^I did that")).press("Enter")
    page.get_by_role("button", name="Say the next one").press("Enter")
    expect(page.get_by_text("Done: ")).to_have_count(6)


def test_a_script_goes_on_over_a_port_that_was_pulled_out(bench: Page, hung: Hung) -> None:
    """The key and the power are the maker's; pulled out in the middle the script stops and says so; back in, it goes on."""
    page = bench
    at_the_first_word(page)
    said = page.get_by_label("What was said")
    expect(said.get_by_text("OK", exact=True).first).to_be_visible()
    hung.pull()
    expect(said.get_by_text(re.compile("is gone: it was unplugged"))).to_be_visible()
    expect(page.get_by_text("Done: ")).to_have_count(6)
    hung.plug()
    page.get_by_role("button", name="Open the port").press("Enter")
    page.get_by_role("button", name="Walk the rest by itself").press("Enter")
    expect(page.get_by_text("Let the key go.")).to_be_visible()
    expect(page.get_by_role("button", name="I did that")).to_be_visible(timeout=60_000)
    assert hung.module.kept["speed"] == 9600
    # What it answered is read back from the conversation itself.
    page.get_by_role("button", name="Read this conversation back").press("Enter")
    expect(page.get_by_role("heading", name=re.compile("^It is classic serial module"))).to_be_visible()
    while page.get_by_role("button", name="I did that").count():
        page.get_by_role("button", name="I did that").press("Enter")
    page.get_by_role("button", name="Note that it is set so").press("Enter")
    expect(page.get_by_text(re.compile("As the plan says, by what it answered last"))).to_be_visible()


def test_a_port_has_one_window_and_is_free_when_that_goes_in_mid_script(bench: Page, hung: Hung) -> None:
    page = bench
    at_the_first_word(page)
    other = page.context.new_page()
    other.goto(page.url)
    other.get_by_role("button", name="A real port instead").press("Enter")
    other.get_by_label("Port").fill(str(hung.name))
    other.get_by_role("button", name="Open the port").press("Enter")
    expect(other.get_by_text(re.compile("open in another window"))).to_be_visible()
    page.get_by_role("button", name="Walk the rest by itself").press("Enter")
    page.close()
    field = other.get_by_label("Say to the module")
    for refused in range(1, 50):  # until the server has seen that the first window went
        other.get_by_role("button", name="Open the port").press("Enter")
        expect(other.get_by_text(re.compile("open in another window")).nth(refused).or_(field)).to_be_visible()
        if field.is_visible():
            break
    field.fill("AT")
    field.press("Enter")
    expect(other.get_by_label("What was said").get_by_text("OK", exact=True).first).to_be_visible()


def test_two_that_are_bound_are_set_from_nothing_in_six_presses(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(start_data("17-two-modules")["plan"], {"nodes": {"mr": {"setup": {"address": None}}}}))
    page.keyboard.press("o")
    page.get_by_role("article").get_by_role("button", name="Right module", exact=True).press("Enter")
    told = page.get_by_role("heading", level=2)
    expect(told).to_contain_text("WING-RIGHT")
    page.get_by_role("button", name="Talk to it").press("Enter")
    page.get_by_role("button", name="Walk the rest by itself").press("Enter")
    expect(told).to_have_text("It is what the plan says.", timeout=60_000)
    page.get_by_role("article").get_by_role("button", name="Left module", exact=True).press("Enter")
    expect(told).to_contain_text("WING-LEFT")
    page.get_by_role("button", name="Walk the rest by itself").press("Enter")
    expect(told).to_have_text("It is what the plan says.", timeout=60_000)
    expect(page.get_by_text(": linked")).to_be_visible(timeout=30_000)
    field = page.get_by_label("Say to the module")
    page.get_by_label("then").select_option("none")
    field.fill("7")
    field.press("Enter")
    expect(page.get_by_label("What was said").get_by_text("Right module", exact=True).last).to_be_visible()


def test_a_file_is_read_while_it_goes_and_can_be_let_go(page: Page, open_plan: Open, tmp_path: Path) -> None:
    at_module(page, open_plan)
    log = tmp_path / "terminal.log"
    log.write_bytes(b"AT\r\nOK\r\nAT+NAME=ATTIC\r\nOK\r\nAT+UART=38400,0,0\r\nOK\r\n" + b"12:00:01 brightness 77\r\n" * 1_500_000)
    choose = page.get_by_label("Open a file")
    choose.set_input_files(log)
    page.get_by_role("button", name="Let it go").press("Enter")
    expect(page.get_by_text("Let go: nothing of it was kept.")).to_be_visible()
    log.write_bytes(log.read_bytes()[:3_000_000])
    choose.set_input_files([])
    choose.set_input_files(log)
    expect(page.get_by_text("ATTIC").first).to_be_visible()
