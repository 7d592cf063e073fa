"""What is waited for on the page, in a browser with a real server."""

from __future__ import annotations

import os
import re
import shutil
import socket
import statistics
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from bench.work import ROOT

if TYPE_CHECKING:
    from playwright.sync_api import Page

TURNS = 20
#: Keeps when the key was pressed and when the loop's new sound was started.
WATCH = """
window.pressed = 0; window.waits = [];
window.addEventListener("keydown", () => { window.pressed = performance.now(); }, true);
const start = AudioBufferSourceNode.prototype.start;
AudioBufferSourceNode.prototype.start = function (when, ...rest) {
  const ahead = 1000 * Math.max(0, when - this.context.currentTime);
  if (window.pressed) window.waits.push(performance.now() + ahead - window.pressed);
  window.pressed = 0;
  return start.call(this, when, ...rest);
};
"""


def waits_ms(folder: Path, take: Path) -> dict[str, float]:
    """Median from turning a setting by key to its sound in the loop, by step; and until ``take``, put
    in by its button, has its figures in the list. Empty without a browser."""
    chromium = shutil.which("chromium")
    if chromium is None:
        return {}
    from playwright.sync_api import sync_playwright

    with served(folder) as address, sync_playwright() as engine:
        browser = engine.chromium.launch(
            executable_path=chromium,
            args=["--no-sandbox", "--autoplay-policy=no-user-gesture-required"],
        )
        page = browser.new_page(base_url=address)
        page.add_init_script(WATCH)
        page.goto("/recordings")
        page.get_by_role("link", name="Hide guide: causeway", exact=True).click()
        page.get_by_role("heading", name="Level path").wait_for()
        page.wait_for_timeout(3000)
        page.get_by_role("button", name="Loop passage").click()
        found = {}
        for step, slider in (("Compressor", "Ratio, slider"), ("Noise reduction", "Depth, slider")):
            page.get_by_role("button", name=step, exact=True).click()
            page.get_by_label(slider).focus()
            page.evaluate("() => { window.waits.length = 0; }")
            for _ in range(TURNS):
                page.keyboard.press("ArrowRight")
                page.wait_for_timeout(1200)
            wait = statistics.median(page.evaluate("() => window.waits"))
            found[f"{step} turned by key to its sound in the loop, median"] = wait
        found[f"a WAV of {take.stat().st_size / 1e6:.0f} MB put in until its figures are shown"] = (
            import_ms(page, take)
        )
        browser.close()
    return found


def import_ms(page: Page, take: Path) -> float:
    """From choosing the file to what was found in it."""
    page.goto("/recordings")
    page.get_by_label("Choose Hide guide: causeway").wait_for()
    began = time.perf_counter()
    page.get_by_test_id("file-picker").set_input_files(take)
    row = page.get_by_role("row").filter(has=page.get_by_role("link", name=take.stem, exact=True))
    row.get_by_role("link", name=re.compile("finding")).wait_for(timeout=300_000)
    return 1000.0 * (time.perf_counter() - began)


@contextmanager
def served(folder: Path) -> Iterator[str]:
    """The demo on a port of its own."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    environment = os.environ | {"ZESTY_DATA": str(folder / "data")}
    command = [sys.executable, "-m", "zesty_cli.main", "demo", "--port", str(port)]
    server = subprocess.Popen(command, env=environment, cwd=ROOT, stdout=subprocess.DEVNULL)
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(600):
            try:
                urllib.request.urlopen(f"{address}/api/step-types/", timeout=1).close()
                break
            except OSError:
                time.sleep(0.2)
        time.sleep(5)
        yield address
    finally:
        server.terminate()
        server.wait(20)
