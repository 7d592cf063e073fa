"""Take the pictures of the main views from a running demo.

Run: ``make demo`` in one terminal, then ``.venv/bin/python docs/screenshots/make.py [ADDRESS]``.
"""

from __future__ import annotations

import re
import sys
from pathlib import Path
from tempfile import TemporaryDirectory

from playwright.sync_api import Page, sync_playwright

sys.path.insert(0, str(Path(__file__).parents[2]))

from tests.interview import interview
from tests.made_sound import write

HERE = Path(__file__).parent
SIZE = {"width": 1280, "height": 800}


def main() -> None:
    """All views into this folder."""
    address = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8765"
    with sync_playwright() as engine:
        browser = engine.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_page(viewport=SIZE)
        page.goto(f"{address}/recordings")
        page.get_by_label("Choose Hide guide: saltmarsh").wait_for()
        shot(page, "recordings")
        page.get_by_role("link", name="Hide guide: saltmarsh", exact=True).click()
        page.get_by_role("region", name="Where to begin").wait_for()
        page.wait_for_timeout(1500)
        shot(page, "workbench-begin")
        page.goto(f"{address}/recordings")
        page.get_by_role("link", name="Hide guide: causeway", exact=True).click()
        page.get_by_role("heading", name="Level path").wait_for()
        page.get_by_role("button", name="Compressor", exact=True).click()
        page.wait_for_timeout(2000)
        shot(page, "workbench")
        page.get_by_role("button", name="EQ", exact=True).click()
        page.wait_for_timeout(1500)
        shot(page, "workbench-eq")
        page.get_by_role("button", name="Noise reduction", exact=True).click()
        page.wait_for_timeout(1500)
        shot(page, "workbench-noise")
        page.get_by_role("button", name="4 findings").click()
        page.get_by_role("dialog", name="Findings about the recording").wait_for()
        shot(page, "workbench-findings")
        page.keyboard.press("Escape")
        page.get_by_role("button", name=re.compile("^Room tone: ")).click()
        page.get_by_role("dialog", name="Room tone").wait_for()
        shot(page, "workbench-room-tone")
        page.keyboard.press("Escape")
        timing(page)
        comparing(page)
        tasting_and_bed(page)
        page.get_by_role("button", name="Compressor", exact=True).click()
        page.wait_for_timeout(1500)
        closer_as_spectrogram(page)
        shot(page, "workbench-spectrogram")
        for name in ("recipes", "room-tones", "targets"):
            page.goto(f"{address}/{name}")
            page.get_by_role("heading", level=1).wait_for()
            shot(page, name)
        a_batch(page, address)
        page.goto(f"{address}/settings")
        page.get_by_role("table", name="Space taken").wait_for()
        shot(page, "settings")
        speakers(page, address)
        browser.close()


def timing(page: Page) -> None:
    """Pauses that are too long, beside a marker."""
    page.get_by_role("button", name="Timing").click()
    dialog = page.get_by_role("dialog", name="Timing")
    dialog.get_by_role("button", name="Markers", exact=True).click()
    dialog.get_by_label("At", exact=True).fill("18.2")
    dialog.get_by_label("Name", exact=True).fill("The second hide")
    dialog.get_by_role("button", name="Add marker").click()
    dialog.get_by_role("button", name="Pauses", exact=True).click()
    dialog.get_by_text("3 longer pauses").wait_for()
    page.wait_for_timeout(500)
    shot(page, "workbench-timing")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo", exact=True).click()
    page.wait_for_timeout(1000)


def speakers(page: Page, address: str) -> None:
    """An interview, two speakers brought to one level."""
    sound, _ = interview(
        ["letters-warden", "counting-lesson"], [0.0, -10.0], turns=8, together=True
    )
    page.goto(f"{address}/recordings")
    with TemporaryDirectory() as folder:
        page.get_by_test_id("file-picker").set_input_files(
            write(Path(folder) / "Causeway talk.wav", sound)
        )
        page.get_by_role("link", name="Causeway talk", exact=True).wait_for(timeout=60_000)
    page.get_by_role("link", name="Causeway talk", exact=True).click()
    page.get_by_role("button", name="Take all").click(timeout=60_000)
    page.get_by_role("button", name="Leveller", exact=True).click()
    page.get_by_role("button", name="Run the chain").click()
    page.get_by_role("region", name="Speakers").wait_for(timeout=120_000)
    page.wait_for_timeout(3000)
    shot(page, "workbench-speakers")


def comparing(page: Page) -> None:
    """What has changed."""
    page.get_by_role("link", name="Compare").click()
    page.get_by_role("table", name="Measures").wait_for()
    shot(page, "compare")
    page.get_by_role("link", name="Workbench", exact=True).click()


def tasting_and_bed(page: Page) -> None:
    """Three recipes told apart, and the voice over music."""
    page.get_by_role("link", name="Tasting").click()
    for label in ("The chain as it is set", "Close-microphone narration", "Kitchen-table podcast"):
        page.get_by_label(label, exact=True).check()
    page.get_by_role("button", name="Taste 3").click()
    page.get_by_role("region", name="Treatment 1").wait_for(timeout=60_000)
    for which in (2, 3, 1):
        page.get_by_role("combobox", name=f"Place of {which}").click()
        page.get_by_role("option").last.click()
    page.get_by_label("Note on 2").fill("clear, not thin")
    page.get_by_role("button", name="Keep the ranking and tell the names").click()
    page.get_by_text("Kept. Best liked:").wait_for()
    shot(page, "tasting")
    page.get_by_role("link", name="Over a bed").click()
    page.get_by_role("status").wait_for()
    page.get_by_role("button", name="Deliver the mix").click()
    page.get_by_role("combobox", name="Target").click()
    page.get_by_role("option", name="Podcast, stereo").click()
    page.get_by_role("button", name="Make the mix").click()
    page.get_by_role("link", name=re.compile("^Download")).wait_for(timeout=60_000)
    page.mouse.move(0, 0)
    page.wait_for_timeout(500)
    shot(page, "over-a-bed")
    page.get_by_role("link", name="Workbench", exact=True).click()
    page.get_by_role("heading", name="Level path").wait_for()


def a_batch(page: Page, address: str) -> None:
    """All recordings towards a target: composed, then done."""
    page.goto(f"{address}/batches")
    page.get_by_label("All recordings").check()
    page.get_by_role("combobox", name="Recipe").click()
    page.get_by_role("option", name="Close-microphone narration").click()
    page.get_by_role("combobox", name="Target", exact=True).click()
    page.get_by_role("option", name="Podcast, stereo").click()
    page.get_by_label("Name", exact=True).fill("November letters and guides")
    page.get_by_label("File names").fill("{number:02} {title}")
    page.wait_for_timeout(800)
    shot(page, "batches")
    page.get_by_role("button", name="Start 6 recordings").click()
    page.get_by_text("6 done", exact=True).wait_for(timeout=120_000)
    page.wait_for_timeout(500)
    shot(page, "batch")


def closer_as_spectrogram(page: Page) -> None:
    """A few seconds of speech as spectrogram, with a part of them selected."""
    for _ in range(2):
        page.get_by_role("button", name=re.compile("^View")).click()
    box = page.get_by_test_id("mirror").bounding_box()
    assert box
    page.mouse.click(box["x"] + 0.3 * box["width"], box["y"] + 40)
    page.evaluate("document.activeElement.blur()")
    for _ in range(2):
        page.keyboard.press("+")
    page.wait_for_timeout(500)
    page.mouse.move(box["x"] + 0.2 * box["width"], box["y"] + 70)
    page.mouse.down()
    page.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + 80, steps=4)
    page.mouse.up()
    page.wait_for_timeout(2500)


def shot(page: Page, name: str) -> None:
    """One picture, once nothing moves any more."""
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(500)
    page.screenshot(path=HERE / f"{name}.png")


if __name__ == "__main__":
    main()
