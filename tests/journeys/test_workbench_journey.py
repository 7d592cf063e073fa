"""The workbench: what is set is heard in the loop, seen in pictures, and can be undone."""

from __future__ import annotations

import csv
import json
import re
import time
from pathlib import Path

import numpy as np
import pytest

from tests.journeys.listening import heard_at
from tests.journeys.test_first_journey import check_accessibility
from tests.journeys.test_intake_journey import GUIDE, open_recording, recordings, select
from tests.journeys.waiting import until
from tests.made_sound import RATE, RECORDINGS, level_db, noise, write

pytestmark = pytest.mark.journey

NOISE = "steady-noise"


@pytest.fixture(scope="module", autouse=True)
def brought_in(browser, address, tmp_path_factory):
    context = browser.new_context(base_url=address)
    page = context.new_page()
    page.goto("/recordings")
    steady = write(tmp_path_factory.mktemp("made") / f"{NOISE}.wav", noise(-30, 12))
    files = [str(RECORDINGS / f"{GUIDE}.wav"), str(steady)]
    page.get_by_test_id("file-picker").set_input_files(files)
    for name in (GUIDE, NOISE):
        page.get_by_role("img", name=f"Waveform of {name}").wait_for(timeout=60_000)
    context.close()


def set_chain(page, name, *steps):
    """Give a recording a chain before its page is opened."""
    one = next(r for r in recordings(page) if r["name"] == name)
    token = {c["name"]: c["value"] for c in page.context.cookies()}["csrftoken"]
    answer = page.request.put(
        f"/api/recordings/{one['id']}/chain/",
        data=json.dumps({"steps": list(steps)}),
        headers={"X-CSRFToken": token, "Content-Type": "application/json"},
    )
    assert answer.ok, answer.text()


def prepared(page, name, *steps):
    page.goto("/recordings")
    page.get_by_role("link", name=name, exact=True).wait_for()
    set_chain(page, name, *steps)
    open_recording(page, name)


def looped(page):
    page.get_by_role("button", name="Loop passage").click()
    page.get_by_role("button", name="Pause", exact=True).wait_for()


def level_around(sound, freq_hz):
    power = np.abs(np.fft.rfft(sound * np.hanning(len(sound)))) ** 2
    freqs = np.fft.rfftfreq(len(sound), 1 / RATE)
    near = (freqs > freq_hz / 1.1) & (freqs < freq_hz * 1.1)
    return 10 * np.log10(power[near].mean() / len(sound))


BELL = {
    "type": "bell",
    "freq_hz": 1000,
    "gain_db": 0.5,
    "q": 1,
    "slope_db_oct": 12,
    "enabled": True,
}


def test_a_dragged_eq_handle_is_heard_in_the_loop(page):
    prepared(page, NOISE, {"type": "eq", "params": {"bands": [BELL]}})
    handle = page.get_by_role("slider", name="Bell, band 1")
    handle.wait_for()
    looped(page)
    before = heard_at(page, lambda sound: np.abs(sound[:4096]).max() > 0.01, during_s=1.5)
    box = handle.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 90, steps=12)
    page.mouse.up()
    text = handle.get_attribute("aria-valuetext")
    gain_db = float(re.search(r"([+−][\d.]+) dB", text)[1].replace("−", "-"))
    assert gain_db > 5
    louder = pytest.approx(level_around(before, 1000) + gain_db - 0.5, abs=1)
    after = heard_at(page, lambda sound: level_around(sound, 1000) == louder, during_s=1.5)
    assert level_around(after, 8000) - level_around(before, 8000) == pytest.approx(0, abs=1)
    # All of the drag is one change.
    undo = page.get_by_role("button", name="Undo")
    assert "EQ: band 1, " in undo.get_attribute("title")
    undo.click()
    assert "+0.5 dB" in handle.get_attribute("aria-valuetext")


def test_hunting_boosts_while_held_and_leaves_a_cut(page):
    prepared(page, NOISE, {"type": "eq", "params": {"bands": [BELL]}})
    handle = page.get_by_role("slider", name="Bell, band 1")
    handle.focus()
    page.keyboard.down("h")
    assert "+10.0 dB, Q 8" in handle.get_attribute("aria-valuetext")
    page.keyboard.press("ArrowRight")
    page.keyboard.up("h")
    words = handle.get_attribute("aria-valuetext")
    assert "−4.0 dB, Q 4" in words
    assert not words.startswith("1.00 kHz")
    page.get_by_role("button", name="Undo").click()
    assert "1 kHz, +0.5 dB" in handle.get_attribute("aria-valuetext")
    check_accessibility(page)


def test_a_switched_step_and_a_turned_slider_are_heard(page):
    prepared(page, NOISE, {"type": "gain", "params": {"gain_db": -20}})
    looped(page)
    quiet = heard_at(page, lambda sound: np.abs(sound[:4096]).max() > 1e-4)

    def heard_by(gain_db, against, within_db=0.5):
        expected = pytest.approx(level_db(against) + gain_db, abs=within_db)
        return heard_at(page, lambda sound: level_db(sound) == expected)

    page.get_by_role("switch", name="Gain on").click()
    loud = heard_by(20, quiet)
    page.get_by_role("switch", name="Gain on").click()
    page.get_by_role("region", name="Gain settings").get_by_label("Gain", exact=True).fill("-10")
    page.keyboard.press("Enter")
    heard_by(-10, loud)
    # Before, match and removed work inside the loop.
    page.get_by_role("button", name="Before", exact=True).click()
    heard_by(0, loud, within_db=0.3)
    page.keyboard.press("m")
    heard_by(-10, loud)
    page.keyboard.press("m")
    # A plain gain removes nothing: both sides are taken from each other equally loud.
    page.keyboard.press("r")
    page.get_by_role("button", name="Removed, after +10.0 dB").wait_for()
    heard_at(page, lambda sound: level_db(sound) < level_db(loud) - 60)
    page.keyboard.press("r")
    heard_by(-10, loud)


def test_steps_are_moved_duplicated_and_undone_after_a_reload(page):
    prepared(page, GUIDE, {"type": "gain", "params": {"gain_db": 1}}, {"type": "limiter"})
    page.get_by_role("button", name="Gain", exact=True).focus()
    page.keyboard.press("Alt+ArrowRight")

    def order():
        return [step["type"] for r in recordings(page) if r["name"] == GUIDE for step in r["chain"]]

    until(page, lambda: order() == ["limiter", "gain"])
    page.get_by_role("button", name="Gain", exact=True).focus()
    page.keyboard.press("Control+d")
    until(page, lambda: order() == ["limiter", "gain", "gain"])
    page.reload()
    undo = page.get_by_role("button", name="Undo")
    undo.wait_for()
    until(page, lambda: undo.get_attribute("title") == "Undo: Gain added (Ctrl+Z)")
    undo.click()
    until(page, lambda: order() == ["limiter", "gain"])
    assert "moved" in undo.get_attribute("title")
    redo = page.get_by_role("button", name="Redo")
    assert redo.get_attribute("title") == "Redo: Gain added (Ctrl+Shift+Z)"


def test_advice_on_a_chain_built_wrong_goes_when_it_is_mended(page):
    prepared(
        page,
        GUIDE,
        {"type": "compressor", "params": {"threshold_db": -35, "ratio": 3}},
        {"type": "noise_reduction"},
    )
    page.get_by_role("button", name="1 finding about Noise reduction").click()
    findings = page.get_by_role("dialog", name="Findings about the recording")
    findings.get_by_text("Noise reduction comes after Compressor").wait_for()
    check_accessibility(page)
    findings.get_by_role("button", name="Move it before Compressor").click()
    page.get_by_role("button", name="1 finding about Noise reduction").wait_for(state="detached")
    # The other one is dismissed, and stays away.
    page.get_by_role("button", name="1 finding about Compressor").click()
    line = findings.get_by_role("listitem").filter(has_text="counts from full scale")
    line.get_by_role("button", name="Dismiss").click()
    line.wait_for(state="detached")
    page.keyboard.press("Escape")
    page.reload()
    page.get_by_role("heading", name="Level path").wait_for()
    page.wait_for_timeout(1500)
    assert page.get_by_role("button", name=re.compile("about Compressor")).count() == 0


def test_the_level_path_is_there_without_a_run_and_exact_after_it(page):
    prepared(page, GUIDE, {"type": "normalize"}, {"type": "loudness", "params": {"target": -20}})
    path = page.get_by_role("img", name=re.compile("^Level path"))
    until(page, lambda: "Loudness: true peak" in path.get_attribute("aria-label"))
    page.get_by_role("button", name="Run the chain").click()
    page.get_by_role("button", name="Run again").wait_for(timeout=60_000)
    run = json.loads(page.request.get("/api/runs/").text())[0]
    voice = f"{run['after']['voice_level_dbfs']:.1f}".replace("-", "−")
    until(page, lambda: f"voice {voice}" in path.get_attribute("aria-label"))
    # What it has changed, in words, a table, a picture and a file.
    page.get_by_role("link", name="Compare").click()
    page.get_by_role("table", name="Measures").wait_for()
    assert "LU louder" in page.get_by_role("status").inner_text()
    check_accessibility(page)
    with page.expect_download() as download:
        page.get_by_role("link", name="Figures as CSV").click()
    table = list(csv.reader(Path(download.value.path()).read_text().splitlines()))
    assert table[0] == ["Measure", "Unit", "Before", "After", "Difference"]
    assert float(table[1][3]) == pytest.approx(run["after"]["integrated_lufs"])
    page.get_by_role("link", name="Workbench", exact=True).click()
    # A change is reported, and the older result stays to compare with.
    page.get_by_role("region", name="Normalize settings").get_by_label("Peak", exact=True).fill(
        "-6"
    )
    page.keyboard.press("Enter")
    page.get_by_text("since the last run: Normalize: peak −3 dB to −6 dB").wait_for()
    page.get_by_role("button", name="Run the chain").click()
    page.get_by_role("button", name=re.compile("^Result of")).click()
    results = page.get_by_role("dialog", name="Results")
    results.get_by_text("now different: Normalize: peak").wait_for()
    results.get_by_role("button", pressed=False).first.click()
    page.keyboard.press("Escape")
    page.get_by_text("since the last run: Normalize").wait_for()


def test_depth_is_drawn_by_keys_and_settings_are_saved_under_a_name(page):
    prepared(page, GUIDE, {"type": "noise_reduction", "params": {"depth_db": 12}})
    point = page.get_by_role("slider", name="Depth at 4 kHz")
    point.focus()
    page.keyboard.press("ArrowDown")
    assert point.get_attribute("aria-valuetext") == "13.0 dB"
    page.get_by_role("button", name="Saved settings").click()
    saved = page.get_by_role("dialog", name="Saved settings of Noise reduction")
    saved.get_by_label("Name").fill("Hissy shed")
    saved.get_by_role("button", name="Save").click()
    saved.get_by_role("button", name="Hissy shed", exact=True).wait_for()
    check_accessibility(page)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Same depth everywhere").click()
    assert point.get_attribute("aria-valuetext") == "12.0 dB"
    page.get_by_role("button", name="Saved settings").click()
    saved.get_by_role("button", name="Hissy shed", exact=True).click()
    until(page, lambda: point.get_attribute("aria-valuetext") == "13.0 dB")


def test_a_selection_becomes_the_passage_and_is_remembered(page):
    open_recording(page, GUIDE)
    select(page, GUIDE, 14.0, 20.0)
    page.get_by_role("button", name="Loop it").click()
    passage = page.get_by_role("slider", name="Passage", exact=True)
    until(page, lambda: passage.get_attribute("aria-valuetext").startswith("0:14"))
    page.reload()
    passage.wait_for()
    assert passage.get_attribute("aria-valuetext").startswith("0:14")


def test_a_blind_pick_is_equally_loud_tells_nothing_and_is_kept(page):
    prepared(page, NOISE, {"type": "gain", "params": {"gain_db": -9}})
    page.get_by_role("button", name="Blind pick").click()
    page.get_by_label("Rounds").fill("5")
    check_accessibility(page)
    page.get_by_role("button", name="Begin").click()
    levels = []
    for label in ("1", "2"):
        page.keyboard.press(label)
        page.wait_for_timeout(300)
        levels.append(level_db(heard_at(page, lambda sound: np.abs(sound[:4096]).max() > 1e-4)))
    assert levels[0] == pytest.approx(levels[1], abs=0.3)
    assert levels[0] == pytest.approx(-39, abs=0.5)
    for _ in range(5):
        page.get_by_role("button", name=re.compile("^This one is better")).click()
    page.get_by_text(re.compile("picked . times of 5")).first.wait_for()
    page.get_by_role("button", name="Back to the workbench").click()
    kept = json.loads(page.request.get("/api/blind-picks/").text())
    assert [one["rounds"] for one in kept] == [5]


def test_two_windows_on_one_recording_lose_nothing(browser, address):
    """One window sets a gain; the other, opened before, shows it and keeps its own chain."""
    gain = {"type": "gain", "params": {"gain_db": 1}}
    context = browser.new_context(base_url=address)
    one, other = context.new_page(), context.new_page()
    prepared(one, NOISE, gain)
    other.goto(one.url)
    # Both show the chain as it was before either changes it.
    other.get_by_role("textbox", name="Gain").wait_for()
    for page, value in ((one, "4 dB"), (other, "-2,5 dB")):
        page.get_by_role("textbox", name="Gain").wait_for()
        if page is other:
            # The first window's change is there before this one's is made.
            page.get_by_text("changed in another window").wait_for()
        page.get_by_role("textbox", name="Gain").fill(value)
        page.keyboard.press("Enter")
    page = other
    page.get_by_text("another window: Gain: gain \u22122.5 dB to 4 dB").wait_for()
    page.get_by_role("button", name="Keep this one").click()
    page.get_by_text("changed in another window").wait_for(state="hidden")

    def kept_gain_db():
        return next(r for r in recordings(page) if r["name"] == NOISE)["chain"][0]["params"][
            "gain_db"
        ]

    deadline_s = time.monotonic() + 5
    while kept_gain_db() != -2.5 and time.monotonic() < deadline_s:
        time.sleep(0.1)
    assert kept_gain_db() == -2.5
    # What the first window made is one undo away, and that window shows it in turn.
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("textbox", name="Gain").wait_for()
    assert page.get_by_role("textbox", name="Gain").input_value() == "4"
    one.get_by_text("changed in another window").wait_for()
    context.close()
