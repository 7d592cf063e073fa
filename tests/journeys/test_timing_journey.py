"""Pauses, markers, chapters, splitting and watched folders on the page; a job by keys alone."""

from __future__ import annotations

import re
import shutil

import av
import numpy as np
import pytest

from tests.journeys.test_first_journey import check_accessibility
from tests.journeys.test_intake_journey import open_recording
from tests.journeys.waiting import until
from tests.made_sound import RATE, noise, spoken, write

pytestmark = pytest.mark.journey

SLOW, KEYED = "Slow talk", "By keys"


def slow_talk():
    """Three phrases of three seconds, pauses of three seconds between them and at the ends."""
    sound = noise(-62, 21)
    for number, start_s in enumerate((3, 9, 15)):
        sound[:, start_s * RATE : (start_s + 3) * RATE] += 0.4 * spoken(3, seed=number)
        hum = 0.02 * np.sin(2 * np.pi * 180 * np.arange(3 * RATE) / RATE)
        sound[:, start_s * RATE : (start_s + 3) * RATE] += hum.astype(np.float32)
    return sound


@pytest.fixture(scope="module", autouse=True)
def brought_in(browser, address, tmp_path_factory):
    context = browser.new_context(base_url=address)
    page = context.new_page()
    page.goto("/recordings")
    folder = tmp_path_factory.mktemp("made")
    files = [
        write(folder / f"{SLOW}.wav", slow_talk()),
        write(folder / f"{KEYED}.wav", slow_talk() * 0.5),
    ]
    page.get_by_test_id("file-picker").set_input_files([str(path) for path in files])
    for name in (SLOW, KEYED):
        page.get_by_role("img", name=f"Waveform of {name}").wait_for(timeout=60_000)
    context.close()


def timing(page, part):
    page.get_by_role("button", name=re.compile("^Timing")).click()
    dialog = page.get_by_role("dialog", name="Timing")
    dialog.get_by_role("button", name=part, exact=True).click()
    return dialog


def test_pauses_are_shortened_markers_set_and_chapters_delivered(page, tmp_path):
    open_recording(page, SLOW)
    page.get_by_role("region", name="Where to begin").get_by_role(
        "button", name="Normalize", exact=True
    ).click()
    dialog = timing(page, "Pauses")
    dialog.get_by_text("2 longer pauses").wait_for()
    check_accessibility(page)
    dialog.get_by_role("button", name=re.compile("^Shorten 2, −4.4 s")).click()
    page.get_by_role("button", name="0:16.6 edited").wait_for()
    dialog = timing(page, "Markers")
    for at, name in (("9", "Reeds"), ("15", "Gulls")):
        dialog.get_by_label("At", exact=True).fill(at)
        dialog.get_by_label("Name", exact=True).fill(name)
        dialog.get_by_role("button", name="Add marker").click()
    check_accessibility(page)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Marker Reeds").click()
    page.get_by_text("0:09.0").first.wait_for()
    page.get_by_role("button", name="Deliver", exact=True).click()
    with page.expect_download(timeout=60_000) as fetched:
        page.get_by_role("button", name="Deliver the file").click()
    path = tmp_path / "delivered.mp3"
    fetched.value.save_as(path)
    with av.open(str(path)) as file:
        chapters = [
            (float(c["start"] * c["time_base"]), c["metadata"]["title"]) for c in file.chapters()
        ]
    assert [name for _, name in chapters] == [SLOW, "Reeds", "Gulls"]
    # A pause of 3 s has become one of 0.8 s before each.
    assert [at for at, _ in chapters] == pytest.approx([0, 9 - 2.2, 15 - 4.4], abs=0.06)


def test_a_recording_is_split_at_its_markers_and_the_parts_make_a_batch(page):
    open_recording(page, SLOW)
    dialog = timing(page, "Markers")
    dialog.get_by_role("button", name="Split at markers").click()
    dialog.get_by_text(f"3 recordings: {SLOW}, beginning, Reeds, Gulls").wait_for(timeout=30_000)
    dialog.get_by_role("link", name="Batch these").click()
    page.get_by_role("heading", name="Batches", level=1).wait_for()
    for name in ("Reeds", "Gulls"):
        assert page.get_by_role("checkbox", name=re.compile(f"^{name}")).is_checked()


def test_an_insert_is_marked_and_undone(page):
    open_recording(page, SLOW)
    dialog = timing(page, "Insert")
    dialog.get_by_label("At", exact=True).fill("12")
    dialog.get_by_label("Length, s").fill("1.5")
    dialog.get_by_role("button", name="Insert", exact=True).last.click()
    dialog.get_by_text("Room tone of 1.5 s at 0:12.00").wait_for()
    page.keyboard.press("Escape")
    mark = page.get_by_role("img", name="Room tone of 1.5 s inserted at 0:12.00")
    mark.wait_for()
    page.keyboard.press("Control+z")
    mark.wait_for(state="detached")


class Keys:
    """Presses keys and counts them; a letter typed is a key."""

    def __init__(self, page):
        self.page, self.count = page, 0

    def press(self, *keys):
        for key in keys:
            self.page.keyboard.press(key)
            self.page.wait_for_timeout(80)
            self.count += 1

    def type(self, text):
        self.press(*text)


def test_a_voice_is_calibrated_cleaned_compressed_and_delivered_in_under_60_keys(page):
    """From the open recording: four steps with typed settings, a run, before and after, an MP3."""
    open_recording(page, KEYED)
    page.get_by_role("region", name="Where to begin").wait_for()
    keys = Keys(page)

    def add(name, letters):
        keys.press("a")
        page.get_by_role("menu").wait_for()
        keys.type(letters)
        keys.press("Enter")
        page.get_by_role("region", name=f"{name} settings").wait_for()
        page.locator("[role=menu]").wait_for(state="detached")

    def in_a_field():
        return page.evaluate("() => document.activeElement.tagName === 'INPUT'")

    def set_first(step, text):
        keys.press(step)
        until(page, in_a_field)
        keys.type(text)
        keys.press("Enter", "Escape")
        until(page, lambda: not in_a_field())

    add("Normalize", "norm")
    set_first("1", "-6")
    add("Noise reduction", "noi")
    add("Compressor", "com")
    set_first("3", "6")
    add("Limiter", "lim")
    keys.press("Control+Enter")
    page.get_by_role("button", name="Run again").wait_for(timeout=60_000)
    keys.press("Space", "m", "b", "Space")
    keys.press("d")
    page.get_by_role("dialog").wait_for()
    with page.expect_download(timeout=60_000) as fetched:
        keys.press("Enter")
    assert fetched.value.suggested_filename == f"{KEYED}.mp3"
    moved = page.get_by_role("button", name=re.compile("^Move "), include_hidden=True)
    names = [handle.get_attribute("aria-label").removeprefix("Move ") for handle in moved.all()]
    assert names == ["Normalize", "Noise reduction", "Compressor", "Limiter"]
    assert keys.count < 60, keys.count


def test_a_watched_folder_delivers_what_comes_in(page, tmp_path):
    folder = tmp_path / "inbox"
    folder.mkdir()
    page.goto("/settings")
    page.get_by_role("button", name="Watch a folder").click()
    check_accessibility(page)
    page.get_by_role("combobox", name="Folder", exact=True).fill(f"{tmp_path}/in")
    page.get_by_role("option", name=str(folder), exact=True).click()
    page.get_by_role("combobox", name="Recipe").last.click()
    page.get_by_role("option", name="Close-microphone narration").click()
    page.get_by_role("combobox", name="Target").last.click()
    page.get_by_role("option", name="Podcast, mono").click()
    page.get_by_role("button", name="Watch", exact=True).click()
    page.get_by_text("0 delivered").wait_for()
    made = write(tmp_path / "tide.wav", 0.3 * spoken(12, seed=8) + noise(-60, 12))
    shutil.move(made, folder / "tide.wav")
    page.get_by_text(re.compile(r"^delivered as tide\.mp3")).wait_for(timeout=90_000)
    page.get_by_text("1 delivered").wait_for()
    assert (folder / "delivered" / "tide.mp3").exists()
    assert (folder / "delivered" / "tide.mp3.receipt.json").exists()
    page.get_by_role("button", name="Stop watching").click()
    page.get_by_role("button", name="Watch a folder").wait_for()
