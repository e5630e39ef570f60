"""How fast a console is: a key to its character, and a stream at full speed that loses nothing and never stands still."""

import os
import pty
import re
import statistics
import threading
import time
import tty
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import NamedTuple

import httpx
from playwright.sync_api import expect, sync_playwright

from tests.builders import CLEAR
from tests.conftest import running_server
from tests.e2e.conftest import launch

BYTES_A_SECOND = 11_520  # 115200 Bd, ten bits a byte
LINE = b"brightness 77, all is as it should be, and the lamp is lit\r\n"
# From a key to the first frame with its character in the field, and from Enter to the first frame with the line in the conversation.
WATCH = """
() => {
  window.keys = [];
  window.lines = [];
  const drawn = (then) => requestAnimationFrame(() => { const it = new MessageChannel(); it.port1.onmessage = then; it.port2.postMessage(0); });
  let pressed = 0;
  document.addEventListener('keydown', (event) => { pressed = event.timeStamp; }, true);
  document.addEventListener('input', () => { const from = pressed; drawn(() => window.keys.push(performance.now() - from)); }, true);
  new MutationObserver((changes) => {
    if (!pressed || !changes.some((it) => it.addedNodes.length)) return;
    const from = pressed;
    pressed = 0;
    drawn(() => window.lines.push(performance.now() - from));
  }).observe(document.querySelector('ol[aria-label="What was said"]'), { childList: true });
}
"""
FRAMES = """
() => {
  window.longest = 0;
  let before = performance.now();
  const next = (now) => { window.longest = Math.max(window.longest, now - before); before = now; requestAnimationFrame(next); };
  requestAnimationFrame(next);
}
"""


class Console(NamedTuple):
    """What was measured, s; the bytes that went and those that came."""

    key_s: float
    line_s: float
    longest_frame_s: float
    sent: int
    heard: int


def console(folder: Path, for_s: float = 60.0) -> Console:
    """Type to a module on a pseudo-terminal, and let it talk at 115200 Bd for a while."""
    mine, theirs = pty.openpty()
    tty.setraw(theirs)
    name = os.ttyname(theirs)
    with running_server(folder / "console.sqlite3", serial_ports=(name,)) as address, sync_playwright() as play:
        browser = launch(play)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        project = httpx.post(f"{address}/api/projects/import", json=CLEAR).json()["id"]
        page.goto(f"{address}/projects/{project}/module")
        page.get_by_role("button", name="A real port instead").press("Enter")
        page.get_by_label("Port").fill(name)
        page.get_by_role("button", name="Open the port").press("Enter")
        field = page.get_by_label("Say to the module")
        field.focus()
        page.evaluate(WATCH)
        for number in range(12):
            for sign in f"AT+{number:02}":
                page.keyboard.press(sign)
            page.keyboard.press("Enter")
            page.get_by_label("What was said").get_by_text(f"AT+{number:02}", exact=True).wait_for()
        keys, lines = page.evaluate("[window.keys, window.lines]")
        page.evaluate(FRAMES)
        with ThreadPoolExecutor(1) as pool:
            going = pool.submit(_stream, mine, for_s)
            while not going.done():  # what the browser tells of its work has to be taken, or it stands still
                page.evaluate("() => new Promise((done) => setTimeout(done, 500))")
        sent = going.result()
        # Before anything is looked for on the page: looking is work of its own.
        longest = page.evaluate("() => new Promise((done) => setTimeout(() => done(window.longest), 500))")
        heard = page.get_by_text(re.compile(r"^\d+ bytes heard$"))
        expect(heard).to_have_text(f"{sent} bytes heard", timeout=20_000)
        told = heard.inner_text()
        browser.close()
    for it in (mine, theirs):
        os.close(it)
    return Console(statistics.median(keys) / 1000, statistics.median(lines) / 1000, longest / 1000, sent, int(told.split()[0]))


def _stream(to: int, for_s: float) -> int:
    """Write whole lines at 115200 Bd for so long; return how many bytes went."""
    begun, sent, pause = time.monotonic(), 0, threading.Event()
    while (past_s := time.monotonic() - begun) < for_s:
        while sent + len(LINE) <= past_s * BYTES_A_SECOND:
            sent += os.write(to, LINE)
        pause.wait(0.005)
    return sent
