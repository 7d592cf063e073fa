"""The first minutes with today's takes: what is wrong with them, cuts, room tone, order in the list."""

from __future__ import annotations

import json
import re

import pytest

from tests.journeys.test_first_journey import check_accessibility
from tests.journeys.waiting import until
from tests.made_sound import RECORDINGS, noise, write
from zesty_core.audio.reader import AudioFile

pytestmark = pytest.mark.journey

HOT, GUIDE, SAME_ROOM = "volunteer-desk", "hide-guide-causeway", "hide-guide-saltmarsh"


#: Times shown while playing, until one is reached or half a minute has gone.
TIMES_UNTIL = """async (end) => {
  const bar = document.querySelector("[aria-label='Playback']");
  const times = [];
  for (let i = 0; i < 300 && !(times.at(-1) >= end); i += 1) {
    await new Promise((resolve) => setTimeout(resolve, 100));
    const [, minutes, seconds] = /(\\d+):(\\d\\d\\.\\d)/.exec(bar.textContent);
    times.push(60 * Number(minutes) + Number(seconds));
  }
  return times;
}"""


def seconds_to_x(page, name, *times_s):
    box = page.get_by_test_id("mirror").bounding_box()
    duration_s = AudioFile(RECORDINGS / f"{name}.wav").info.duration_s
    return box, [box["x"] + box["width"] * t / duration_s for t in times_s]


def select(page, name, start_s, end_s):
    box, (left, right) = seconds_to_x(page, name, start_s, end_s)
    page.mouse.move(left, box["y"] + 40)
    page.mouse.down()
    page.mouse.move(right, box["y"] + 60, steps=5)
    page.mouse.up()


def open_recording(page, name):
    page.goto("/recordings")
    page.get_by_role("link", name=name, exact=True).click()
    page.get_by_role("heading", name="Level path").wait_for()


def recordings(page):
    return json.loads(page.request.get("/api/recordings/").text())


def test_three_files_one_broken_and_one_brought_twice(page, tmp_path):
    page.goto("/recordings")
    broken = tmp_path / "half.wav"
    whole = (RECORDINGS / f"{GUIDE}.wav").read_bytes()
    broken.write_bytes(whole[: len(whole) // 2])
    files = [str(RECORDINGS / f"{n}.wav") for n in (GUIDE, HOT, SAME_ROOM)]
    page.get_by_test_id("file-picker").set_input_files([files[0], str(broken), *files[1:]])
    for name in (GUIDE, HOT, SAME_ROOM):
        page.get_by_role("img", name=f"Waveform of {name}").wait_for(timeout=60_000)
    assert "ends early" in page.get_by_role("alert").filter(has_text="half.wav").inner_text()
    page.get_by_test_id("file-picker").set_input_files([files[0]])
    again = page.get_by_role("alert").filter(has_text="is here already")
    again.wait_for()
    assert len(recordings(page)) == 3


def test_the_list_is_described_searched_and_sorted(page):
    page.goto("/recordings")
    page.get_by_label(f"Choose {GUIDE}").check()
    page.get_by_role("button", name="Describe").click()
    page.get_by_label("Show, client or project").fill("Hide guides")
    page.get_by_label("Take").fill("2")
    page.get_by_label("Notes").fill("gulls at the end")
    check_accessibility(page)
    page.get_by_role("button", name="Save").click()
    page.get_by_text("Hide guides, take 2").wait_for()
    # Until the dialog has faded, what lies behind it has no roles.
    page.get_by_role("dialog").wait_for(state="detached")
    rows = page.get_by_role("row")
    page.get_by_label("Find recordings").fill("gulls")
    rows.nth(2).wait_for(state="detached")
    assert rows.count() == 2
    page.get_by_label("Find recordings").fill("")
    rows.nth(2).wait_for()
    page.get_by_label("Show only").click()
    page.get_by_role("option", name="Hide guides").click()
    rows.nth(2).wait_for(state="detached")
    assert rows.count() == 2
    page.get_by_label("Show only").click()
    page.get_by_role("option", name="All recordings").click()
    page.get_by_role("button", name="Peak").click()
    rows.nth(1).get_by_text(HOT).wait_for()
    check_accessibility(page)


def test_findings_lead_to_places_and_steps(page):
    open_recording(page, HOT)
    page.get_by_role("button", name=re.compile(r"^\d findings$")).click()
    findings = page.get_by_role("dialog", name="Findings about the recording")
    assert "Clipped in 141 places" in findings.inner_text()
    check_accessibility(page)
    findings.get_by_role("button", name="Add Hum").click()
    findings.get_by_text("in the chain").first.wait_for()
    # The button that had the focus is gone.
    findings.press("Escape")
    page.get_by_role("region", name="Hum settings").wait_for()
    page.get_by_role("region", name="Hum settings").get_by_text("Takes mains hum out").wait_for()


def test_a_false_start_is_cut_and_taken_back(page):
    open_recording(page, GUIDE)
    select(page, GUIDE, 4.2, 9.2)
    page.get_by_role("button", name="Cut out").click()
    page.get_by_role("button", name=re.compile("^Take back the cut")).wait_for()
    length = page.get_by_title(re.compile("^Length after edits"))
    length.wait_for()
    check_accessibility(page)
    cut = next(r for r in recordings(page) if r["name"] == GUIDE)["cuts"][0]
    assert cut["end_s"] - cut["start_s"] == pytest.approx(5, abs=0.1)

    # Playing jumps over it.
    box, (x,) = seconds_to_x(page, GUIDE, cut["start_s"] - 0.4)
    page.mouse.click(x, box["y"] + 40)
    page.get_by_role("button", name="Play", exact=True).click()
    times = page.evaluate(TIMES_UNTIL, cut["end_s"])
    page.get_by_role("button", name="Pause", exact=True).click()
    assert times[-1] >= cut["end_s"]
    # The browser tells the time a few times a second, so a little of the cut may be heard.
    assert not [t for t in times if cut["start_s"] + 1.5 < t < cut["end_s"] - 0.1]

    page.get_by_role("button", name=re.compile("^Take back the cut")).click()
    length.wait_for(state="detached")
    # The page shows it at once, the server has it a moment later.
    until(
        page,
        lambda: all(r["state"] == "done" and not r["cuts"] for r in recordings(page)),
    )


def test_room_tone_is_taken_and_used_on_another_recording(page):
    open_recording(page, GUIDE)
    select(page, GUIDE, 0.5, 3.5)
    page.get_by_label("Room or microphone").fill("boat shed")
    page.get_by_role("button", name="Keep as room tone").click()
    page.get_by_role("button", name="Room tone: boat shed").wait_for()
    open_recording(page, SAME_ROOM)
    page.get_by_role("button", name=re.compile("^Room tone: at ")).click()
    choice = page.get_by_role("dialog", name="Room tone")
    assert "long enough" in choice.inner_text()
    check_accessibility(page)
    choice.get_by_role("button", name=re.compile(f"^Use boat shed, from {GUIDE}")).click()
    page.get_by_role("button", name="Room tone: boat shed").wait_for()
    # One click takes what was found here instead.
    page.get_by_role("button", name="Room tone: boat shed").click()
    choice.get_by_role("button", name=re.compile("^Keep .* as room tone$")).first.click()
    page.get_by_role("button", name=f"Room tone: {SAME_ROOM}, room tone").wait_for()
    page.goto("/room-tones")
    rooms = page.get_by_role("textbox", name="Room or microphone")
    rooms.first.wait_for()
    assert "boat shed" in [room.input_value() for room in rooms.all()]
    check_accessibility(page)


def test_an_upload_that_broke_off_goes_on_where_it_was(page, tmp_path):
    """Most of 43 MB are let through, then the server is gone; later the rest follows."""
    page.goto("/recordings")
    take = write(tmp_path / "ebb-tide.wav", noise(-30, 300))
    sent = []

    def through_at_first(route):
        sent.append(route.request.url)
        if len(sent) == 2:
            return route.abort()
        return route.continue_()

    page.route("**/piece/**", through_at_first)
    page.get_by_test_id("file-picker").set_input_files([str(take)])
    page.get_by_role("img", name="Waveform of ebb-tide").wait_for(timeout=90_000)
    # The piece that failed was sent again, the first one was not.
    offsets = [int(re.search(r"offset=(\d+)", url)[1]) for url in sent]
    assert offsets[0] == 0
    assert offsets[1] == offsets[2] > 0
    made = next(r for r in recordings(page) if r["name"] == "ebb-tide")
    assert made["duration_s"] == pytest.approx(300)


def test_looking_close_with_keys_and_as_spectrogram(page):
    open_recording(page, GUIDE)
    mirror = page.get_by_test_id("mirror")
    mirror.focus()
    for _ in range(9):
        page.keyboard.press("+")
    shown = page.get_by_role("slider", name="What is shown of the whole")
    shown.wait_for()
    check_accessibility(page)
    page.keyboard.press("0")
    shown.wait_for(state="detached")
    for _ in range(2):
        page.get_by_role("button", name=re.compile("^View")).click()
    page.get_by_role("img", name=re.compile("^Spectrogram, ")).wait_for()
    page.keyboard.press("Escape")
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("?")
    page.get_by_role("dialog", name="Keys").wait_for()
    check_accessibility(page)


def test_deleting_is_taken_back(page):
    page.goto("/recordings")
    page.get_by_label(f"Choose {HOT}").check()
    page.get_by_role("button", name="Delete").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete").click()
    page.get_by_role("link", name=HOT, exact=True).wait_for(state="detached")
    page.get_by_role("button", name="Take back").click()
    page.get_by_role("link", name=HOT, exact=True).wait_for()


def test_settings_are_what_new_recordings_begin_with(page, tmp_path):
    path = write(tmp_path / "Slack water.wav", noise(-20, 2, seed=77))
    page.goto("/settings")
    page.get_by_role("combobox", name="Recipe").click()
    page.get_by_role("option", name="Kitchen-table podcast").click()
    page.get_by_role("combobox", name="Target").click()
    page.get_by_role("option", name="Broadcast").click()
    page.get_by_role("combobox", name="Target").get_by_text("Broadcast").wait_for()
    page.get_by_role("button", name="Dark").click()
    dark = page.evaluate("getComputedStyle(document.body).backgroundColor")
    check_accessibility(page)
    page.reload()
    assert page.evaluate("getComputedStyle(document.body).backgroundColor") == dark
    page.get_by_role("button", name="As the system").click()
    try:
        page.goto("/recordings")
        page.get_by_test_id("file-picker").set_input_files(path)
        page.get_by_role("link", name="Slack water", exact=True).click()
        page.get_by_role("heading", name="Level path").wait_for()
        page.get_by_text("Kitchen-table podcast").wait_for()
        page.get_by_role("button", name=re.compile("^Broadcast: ")).wait_for()
    finally:
        page.goto("/settings")
        for name, nothing in (("Recipe", "none: an empty chain"), ("Target", "none")):
            page.get_by_role("combobox", name=name).click()
            page.get_by_role("option", name=nothing, exact=True).click()
            page.get_by_role("combobox", name=name).get_by_text(nothing, exact=True).wait_for()
    page.goto("/recordings")
    page.get_by_label("Choose Slack water").check()
    page.get_by_role("button", name="Delete").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete").click()
    page.get_by_role("link", name="Slack water", exact=True).wait_for(state="detached")
    # The offer at hand is gone with the page; Settings still has it.
    page.goto("/settings")
    page.get_by_role("button", name="Take back Slack water").click()
    page.get_by_role("button", name="Take back Slack water").wait_for(state="detached")
    assert "Slack water" in [r["name"] for r in recordings(page)]
    page.get_by_text("Recordings as they came").wait_for()
