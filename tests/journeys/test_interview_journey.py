"""An interview: speakers at one level, corrected by hand; and a take brought to the voice of a show."""

from __future__ import annotations

import json

import pytest

from tests.interview import interview
from tests.journeys.test_first_journey import check_accessibility
from tests.journeys.test_intake_journey import open_recording, recordings
from tests.journeys.waiting import until
from tests.made_sound import RECORDINGS, write

pytestmark = pytest.mark.journey

TALK, SHOW, TAKE = "Causeway talk", "letters-31-warden", "hide-guide-causeway"


@pytest.fixture(scope="module")
def page(browser, address, tmp_path_factory):
    """With the interview and two takes brought in."""
    sound, _ = interview(["letters-warden", "counting-lesson"], [0.0, -10.0], turns=6)
    talk = write(tmp_path_factory.mktemp("talk") / f"{TALK}.wav", sound)
    page = browser.new_page(base_url=address)
    page.goto("/recordings")
    files = [talk, *(RECORDINGS / f"{name}.wav" for name in (SHOW, TAKE))]
    page.get_by_test_id("file-picker").set_input_files(files)
    for name in (TALK, SHOW, TAKE):
        page.get_by_role("link", name=name, exact=True).wait_for()
    yield page
    page.close()


def run(page):
    page.get_by_role("button", name="Run the chain").click()
    page.get_by_role("button", name="Run again").wait_for(timeout=120_000)


def report_of(page, name, kind):
    recording = next(r for r in recordings(page) if r["name"] == name)
    latest = json.loads(page.request.get(f"/api/runs/{recording['latest_run']}/").text())
    return next(point["report"] for point in latest["points"] if point["type"] == kind)


def test_speakers_come_to_one_level_and_are_corrected_by_hand(page):
    open_recording(page, TALK)
    page.get_by_role("button", name="Take all").click()
    run(page)
    strip = page.get_by_role("region", name="Speakers")
    strip.wait_for()
    check_accessibility(page)
    first, second = report_of(page, TALK, "leveller")["speaker_levels"]
    assert first["before_dbfs"] - second["before_dbfs"] == pytest.approx(10, abs=1.5)
    assert first["after_dbfs"] == pytest.approx(second["after_dbfs"], abs=0.5)

    strip.get_by_role("textbox", name="Name of speaker 2").fill("Teacher")
    page.keyboard.press("Enter")
    strip.get_by_text("Corrected by hand").wait_for()
    strip.get_by_role("button", name="Speaker 1, ").first.click()
    page.get_by_role("menuitem", name="This is Teacher").click()
    until(page, lambda: kept(page) and [t["speaker"] for t in kept(page)["turns"]][:2] == [1, 1])
    page.get_by_role("button", name="Undo", exact=True).click()
    until(page, lambda: [t["speaker"] for t in kept(page)["turns"]][:2] == [0, 1])
    run(page)
    levels = report_of(page, TALK, "leveller")["speaker_levels"]
    assert [row["name"] for row in levels] == ["Speaker 1", "Teacher"]


def kept(page):
    return next(r for r in recordings(page) if r["name"] == TALK)["speakers"]


def test_a_take_is_brought_to_the_voice_of_a_show(page):
    page.goto("/recordings")
    page.get_by_label(f"Choose {SHOW}").check()
    page.get_by_role("button", name="House voice").click()
    dialog = page.get_by_role("dialog", name="House voice of a recording")
    dialog.get_by_label("Show or narrator").fill("Low Water Letters")
    dialog.get_by_role("button", name="Keep this voice").click()
    dialog.get_by_text("Kept as Low Water Letters.").wait_for()
    check_accessibility(page)
    open_recording(page, TAKE)
    page.get_by_role("button", name="House voice: ").click()
    check_accessibility(page)
    page.get_by_role("button", name="Close the gap").click()
    page.get_by_role("region", name="House voice settings").wait_for()
    run(page)
    report = report_of(page, TAKE, "house_voice")
    assert 1 <= len(report["bands"]) <= 6
    # Another voice in a noisy room: nothing is boosted into the noise, so a part of the gap stays.
    assert report["apart_after_db"] < report["apart_before_db"] - 1
