"""Take the pictures in docs/screenshots from the demo data: run after a view has changed."""

import json
import tempfile
from io import BytesIO
from pathlib import Path

import httpx
from PIL import Image, ImageDraw
from playwright.sync_api import Page, sync_playwright

from tests.conftest import running_server
from tests.e2e.conftest import launch

ROOT = Path(__file__).parent.parent
OUT = ROOT / "docs" / "screenshots"


DAWN = [
    {"target": "moon", "red": 0.6, "green": 0.75, "blue": 1, "after_s": 0.6, "fade_s": 0.8},
    {"target": "footlights", "level": 1, "after_s": 0.6},
    {"target": "moon", "red": 1, "green": 0.3, "blue": 0, "after_s": 1, "fade_s": 0.8},
    {"target": "footlights", "level": 0, "after_s": 0.8},
]


LOG = (
    ("built", "The divider is in, on the small breadboard beside the module.", "links.serial", "40", ""),
    ("measured", "3.51 V in its middle while the board is idle.", "links.serial", "10", ""),
    ("fault", "The moon flashes white for half a second when the power comes on.", "lamps.moon", "", ""),
    ("fixed", "Three resistors of 100k from the gates to ground: it stays dark now.", "lamps.moon", "1 h 20", "0,60"),
    ("next_time", "Solder the divider to the module's socket: on the breadboard it fell off twice.", "links.serial", "", ""),
)


def drawn_photo() -> bytes:
    """Draw what stands for a photo: a moon of paper over a row of lamps."""
    picture = Image.new("RGB", (1200, 800), (52, 44, 70))
    pen = ImageDraw.Draw(picture)
    pen.ellipse((420, 90, 780, 450), fill=(247, 231, 190))
    pen.ellipse((520, 60, 860, 400), fill=(52, 44, 70))
    for at in range(6):
        pen.ellipse((180 + at * 160, 600, 240 + at * 160, 660), fill=(255, 196, 96))
    out = BytesIO()
    picture.save(out, "JPEG")
    return out.getvalue()


def write_log(log: str) -> None:
    """Write an evening at the bench into a log."""
    for kind, text, stage, minutes, cost in LOG:
        said = {"kind": kind, "text": text, "stage": stage, "minutes": minutes, "cost": cost}
        entry = httpx.post(f"{log}/entries", json=said).json()["id"]
        if kind == "fixed":
            alt, head = "The paper moon, dark on its left, over six footlights", {"content-type": "application/octet-stream"}
            httpx.post(f"{log}/entries/{entry}/photos", params={"alt": alt}, content=drawn_photo(), headers=head, timeout=60)


def settle(page: Page) -> None:
    """Wait until the sheet is there and the fonts are in."""
    page.get_by_role("heading", level=2).first.wait_for()
    page.evaluate("document.fonts.ready")


def main() -> None:
    """Write one picture of each main view."""
    with (
        tempfile.TemporaryDirectory() as folder,
        running_server(Path(folder) / "shots.sqlite3") as address,
        sync_playwright() as play,
    ):
        browser = launch(play)

        def new_page(theme: str) -> Page:
            return browser.new_page(
                base_url=address, viewport={"width": 1280, "height": 800}, color_scheme="dark" if theme == "dark" else "light"
            )

        page = new_page("light")
        demo = httpx.get(f"{address}/api/projects").json()[0]["id"]
        for name, stage in (
            ("lamp", "lamps.foot"),
            ("hook-up", "links.serial"),
            ("words", "vocabularies.words"),
            ("pins", "pins.board"),
            ("supply", "rails.five"),
        ):
            page.goto(f"/projects/{demo}?stage={stage}")
            settle(page)
            if name == "pins":
                page.get_by_text("Until the program runs").click()
            page.screenshot(path=OUT / f"{name}.png")
        page.goto(f"/projects/{demo}?stage=vocabularies.words")
        settle(page)
        page.goto(f"/projects/{demo}/module")
        page.get_by_role("button", name="Talk to it").click()
        page.get_by_role("button", name="Walk the rest by itself").click()
        page.get_by_role("heading", level=2, name="It is what the plan says.").wait_for()
        page.locator("article").evaluate("it => it.parentElement.scrollTo(0, 0)")
        page.screenshot(path=OUT / "module.png")
        star = httpx.post(f"{address}/api/projects", json={"start": "demo", "demo": "foyer-star"}).json()["id"]
        page.goto(f"/projects/{star}?stage=lamps.star")
        settle(page)
        phone = page.get_by_label("Phone", exact=True)
        for button in ("Gold", "Run round"):
            phone.get_by_role("button", name=button).click()
            page.get_by_text("Reached Star").first.wait_for()
        page.locator("article circle[fill^='#']").first.wait_for(state="attached")
        page.wait_for_function("() => !document.querySelector('nav .bead')")
        page.screenshot(path=OUT / "places.png")
        page.goto(f"/projects/{demo}/program")
        page.get_by_role("heading", name="no library to fetch").wait_for()
        page.get_by_role("article").get_by_role("button", name="Moon", exact=True).click()
        page.evaluate("document.fonts.ready")
        page.screenshot(path=OUT / "program.png")
        project = httpx.post(f"{address}/api/projects", json={"start": "demo"}).json()
        for undo, ohm in ((False, 82), (True, 91), (False, 100)):
            url, revision = f"{address}/api/projects/{project['id']}", project["revision"]
            if undo:
                revision = httpx.post(f"{url}/undo", json={"base_revision": revision}).json()["revision"]
            body = {
                "base_revision": revision,
                "patch": {"lamps": {"foot": {"channels": {"main": {"resistor_ohm": ohm}}}}},
                "summary": f"Series resistor: {ohm}",
            }
            project = httpx.post(f"{url}/edits", json=body).json()
        page.goto(f"/projects/{project['id']}/boards")
        page.get_by_role("heading", level=2, name="serves it best").wait_for()
        page.screenshot(path=OUT / "boards.png")
        page.goto(f"/projects/{project['id']}/history")
        settle(page)
        page.get_by_role("button", name="Compare").last.click()
        page.get_by_text("decision differs").wait_for()
        page.screenshot(path=OUT / "history.png")
        write_log(f"{address}/api/projects/{project['id']}/log")
        page.goto(f"/projects/{project['id']}/log")
        page.get_by_role("heading", name="entries").wait_for()
        page.wait_for_function("() => [...document.querySelectorAll('article img')].every((it) => it.complete)")
        page.evaluate("document.fonts.ready")
        page.screenshot(path=OUT / "log.png")
        page.goto(f"/projects/{demo}/bench")
        settle(page)
        page.get_by_role("checkbox", name="Board, pin 9").focus()
        page.get_by_role("heading", name="Then signals").scroll_into_view_if_needed()
        page.screenshot(path=OUT / "bench.png")
        httpx.post(f"{address}/api/projects", json={"start": "demo", "demo": "two-wings"})
        page.goto("/shelf")
        page.get_by_role("link", name="Two wings").first.wait_for()
        page.screenshot(path=OUT / "shelf.png")
        page.goto(f"/projects/{demo}/why")
        page.get_by_role("button", name="The phone links, and nothing happens").click()
        for answered in range(2):
            page.locator("[data-answers] button").first.click()
            page.get_by_label("What was found:").nth(answered).wait_for()
            page.wait_for_load_state("networkidle")
        page.mouse.move(640, 20)
        page.screenshot(path=OUT / "why.png")
        page.set_viewport_size({"width": 375, "height": 720})
        page.goto(f"/projects/{demo}/bring-up?step=idle.serial.b_to_a")
        settle(page)
        page.get_by_label("You measure").fill("0.02")
        page.get_by_role("button", name="Keep it").click()
        page.get_by_text("1 step is not as it should be").wait_for()
        page.screenshot(path=OUT / "bring-up.png")
        page.set_viewport_size({"width": 1280, "height": 800})
        page.goto(f"/projects/{httpx.post(f'{address}/api/projects', json={'start': 'empty'}).json()['id']}")
        settle(page)
        page.locator("ul[aria-labelledby='starts'] circle[fill^='#']").first.wait_for(state="attached")
        page.wait_for_timeout(2300)  # until most of their lights are lit
        page.screenshot(path=OUT / "opening.png")
        page = new_page("dark")
        page.goto(f"/projects/{demo}/practice")
        page.get_by_label("Round").fill("3")
        page.get_by_role("button", name="Break it").click()
        for pin in ("Module, RX", "Board, GND"):
            page.get_by_role("button", name=pin, exact=True).click()
        page.get_by_role("button", name="Measure").click()
        page.get_by_role("heading", name="What was found").wait_for()
        page.mouse.move(640, 20)
        page.screenshot(path=OUT / "practice.png")
        played = json.loads((ROOT / "tests" / "data" / "footlights.json").read_text(encoding="utf-8"))
        played["cues"] = {"dawn": {"label": "Dawn", "loop": True, "steps": DAWN}}
        played["inputs"] = {"cue": {"kind": "button", "label": "Cue", "host": "board"}}
        pressed = {"host": "board", "when": {"input": "cue", "event": "pressed"}, "do": [{"verb": "cue", "target": "dawn"}]}
        played["rules"] |= {"cue_pressed": pressed, "when_dark": {**played["rules"]["when_dark"], "do": [{"verb": "stop"}]}}
        made = httpx.post(f"{address}/api/projects/import", json=played).json()["id"]
        page = new_page("light")
        page.goto(f"/projects/{demo}?stage=rules.board")
        settle(page)
        score = page.get_by_role("region", name="Cue Storm")
        score.evaluate("it => it.scrollIntoView({ block: 'start' })")
        page.get_by_role("button", name="Open the line").wait_for()
        score.get_by_role("button", name="Lightning red").first.focus()
        page.get_by_label("Fades over", exact=True).last.wait_for()
        score.evaluate("it => it.scrollIntoView({ block: 'start' })")
        page.mouse.move(500, 500)
        page.mouse.wheel(0, -150)
        page.screenshot(path=OUT / "score.png")
        page.goto(f"/projects/{made}/rehearse")
        file = OUT.parent.parent / "tests" / "data" / "takes" / "dawn.json"
        page.get_by_label("Read a take from a file").set_input_files(file)
        page.get_by_role("button", name="play again").click()
        page.get_by_text("1 is lost").wait_for()
        page.get_by_role("slider", name="Time: arrows").click(position={"x": 420, "y": 20})
        page.screenshot(path=OUT / "rehearse.png")
        browser.close()


if __name__ == "__main__":
    main()
