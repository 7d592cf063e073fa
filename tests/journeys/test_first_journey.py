"""One recording from the drop to the finished files, through the real interface."""

from __future__ import annotations

import base64
import json
import re
import zipfile

import pytest
import soundfile
from mutagen import File as TaggedFile
from mutagen.mp3 import MP3
from playwright.sync_api import TimeoutError as PlaywrightTimeout

from tests.journeys.listening import PIECE, heard_so_far, place_of
from tests.made_sound import RATE, RECORDINGS, ROOT, noise, spoken, write
from zesty_core.audio.reader import AudioFile
from zesty_core.measures.stream import measure

pytestmark = pytest.mark.journey

AXE = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
FIRST = "hide-guide-causeway"
OTHERS = ("letters-31-opening", "hide-guide-saltmarsh")

DROP = """([name, data]) => {
  const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
  const transfer = new DataTransfer();
  transfer.items.add(new File([bytes], name, { type: "audio/wav" }));
  const target = document.querySelector("main > div");
  for (const kind of ["dragover", "drop"]) {
    const how = { bubbles: true, cancelable: true, dataTransfer: transfer };
    target.dispatchEvent(new DragEvent(kind, how));
  }
}"""


def check_accessibility(page):
    page.wait_for_timeout(500)  # colours that fade have arrived
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run(document, { resultTypes: ['violations'] })")
    told = [
        f"{v['id']}: {v['help']} at {[n['html'] for n in v['nodes'][:3]]}"
        for v in found["violations"]
    ]
    assert told == []


def drop(page, path):
    data = base64.b64encode(path.read_bytes()).decode()
    page.evaluate(DROP, [path.name, data])


def add_step(page, label):
    begin = page.get_by_role("region", name="Where to begin")
    if begin.is_visible():
        begin.get_by_role("button", name=label, exact=True).click()
    else:
        page.get_by_role("button", name="Add a step at the end").click()
        page.get_by_role("menuitem", name=re.compile(f"^{label}")).click()
    page.get_by_role("region", name=f"{label} settings").wait_for()


def type_setting(page, label, text):
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Enter")


def step_names(page):
    labels = page.get_by_role("button", name=re.compile("^Move "))
    return [labels.nth(i).get_attribute("aria-label")[5:] for i in range(labels.count())]


def wait_for_run(page):
    page.get_by_role("button", name="Run again").wait_for(timeout=60_000)


@pytest.fixture(scope="module")
def state():
    """What later parts of the journey need from earlier ones."""
    return {}


def test_drop_a_recording_and_see_it(page):
    page.goto("/recordings")
    page.get_by_text("Drop recordings anywhere").wait_for()
    check_accessibility(page)
    drop(page, RECORDINGS / f"{FIRST}.wav")
    page.get_by_role("img", name=f"Waveform of {FIRST}").wait_for(timeout=30_000)
    file = AudioFile(RECORDINGS / f"{FIRST}.wav")
    measures = measure(file.blocks(), file.info)
    row = page.get_by_role("row", name=re.compile(FIRST))
    for value in (measures.true_peak_dbtp, measures.voice_level_dbfs, measures.clearance_db):
        assert f"{value:.1f}".replace("-", "−") in row.inner_text()
    check_accessibility(page)


def test_a_wrong_file_is_told_and_stops_no_other(page, tmp_path):
    page.goto("/recordings")
    bad = tmp_path / "notes.wav"
    bad.write_text("these are notes")
    good = [str(RECORDINGS / f"{name}.wav") for name in OTHERS]
    page.get_by_test_id("file-picker").set_input_files([str(bad), *good])
    alert = page.get_by_role("alert").filter(has_text="notes.wav")
    alert.wait_for(timeout=30_000)
    assert "is no sound file" in alert.inner_text()
    for name in OTHERS:
        page.get_by_role("img", name=f"Waveform of {name}").wait_for(timeout=60_000)
    assert page.get_by_role("link", name="notes").count() == 0


def test_room_tone_steps_order_and_run(page, state):
    page.goto("/recordings")
    page.get_by_role("link", name=FIRST, exact=True).click()
    page.get_by_text("Found quiet").wait_for()
    state["url"] = page.url

    # Room tone: drag over the first seconds of the waveform.
    box = page.get_by_test_id("mirror").bounding_box()
    duration_s = AudioFile(RECORDINGS / f"{FIRST}.wav").info.duration_s
    x = [box["x"] + box["width"] * t / duration_s for t in (0.5, 3.5)]
    page.mouse.move(x[0], box["y"] + 40)
    page.mouse.down()
    page.mouse.move(x[1], box["y"] + 60, steps=5)
    page.mouse.up()
    page.get_by_label("Room or microphone").fill("boat shed")
    check_accessibility(page)
    page.get_by_role("button", name="Keep as room tone").click()
    page.get_by_role("button", name="Room tone: boat shed").wait_for()

    for label in ("Noise reduction", "Compressor", "Limiter", "Loudness", "Normalize"):
        add_step(page, label)
    type_setting(page, "Peak", "−3")
    # Normalize belongs first: move it with the keyboard.
    page.get_by_role("button", name="Move Normalize").focus()
    page.keyboard.press("Space")
    page.wait_for_timeout(300)
    for _ in range(4):
        page.keyboard.press("ArrowLeft")
        page.wait_for_timeout(150)
    page.keyboard.press("Space")
    page.wait_for_timeout(300)
    assert step_names(page) == ["Normalize", "Noise reduction", "Compressor", "Limiter", "Loudness"]

    page.get_by_role("button", name="Loudness", exact=True).click()
    page.get_by_label("Measured as").click()
    page.get_by_role("option", name="voice").click()
    type_setting(page, "Target", "-22")
    page.get_by_role("button", name="Compressor", exact=True).click()
    type_setting(page, "Ratio", "99")
    assert "from 1 to 50" in page.get_by_role("alert").inner_text()
    page.get_by_label("Ratio", exact=True).press("Escape")

    # A step that is off, undone; a step removed, undone by key.
    page.get_by_label("Limiter on").click()
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Remove this step").click()
    assert "Compressor" not in step_names(page)
    page.get_by_role("heading", name="Level path").click()
    page.keyboard.press("Control+z")
    assert "Compressor" in step_names(page)

    page.get_by_role("button", name="Run the chain").click()
    wait_for_run(page)
    told = re.compile(r"^Level path\..*Loudness: true peak [^,]*, voice −22\.0")
    page.get_by_role("img", name=told).wait_for()
    check_accessibility(page)


def test_switching_while_playing_stays_at_the_same_instant(page, state):
    page.goto(state["url"])
    wait_for_run(page)
    page.get_by_role("button", name="Deliver").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Download the last result").click()
    page.keyboard.press("Escape")
    after, _ = soundfile.read(download.value.path())
    before, _ = soundfile.read(RECORDINGS / f"{FIRST}.wav")

    found = {}
    for _ in range(4):
        try:
            pieces = played_over_a_switch(page)
        except PlaywrightTimeout:
            page.reload()
            wait_for_run(page)
            continue
        found = {"before": place_of(pieces["before"], before)}
        found["after"] = place_of(pieces["after"], after)
        # A busy machine may drop out while playing; then it is tried again.
        apart = found["before"][0] - found["after"][0]
        if min(fit for _, fit in found.values()) > 0.99 and apart == APART:
            break
    assert set(found) == {"before", "after"}
    for side, (_, fit) in found.items():
        assert fit > 0.99, side
    assert found["before"][0] - found["after"][0] == APART


#: Samples between the two pieces: the recorder is behind, so the switch is only roughly between them.
APART = 5 * RATE // 2


def played_over_a_switch(page):
    """Half a second from before switching to before, and half a second from after it."""
    box = page.get_by_test_id("mirror").bounding_box()
    page.get_by_role("button", name="After", exact=True).click()
    page.mouse.click(box["x"] + box["width"] * 5 / 31.875, box["y"] + 30)
    page.get_by_role("button", name="Play", exact=True).click()
    page.get_by_role("button", name="Pause", exact=True).wait_for(timeout=8_000)
    page.wait_for_timeout(2500)
    switch = PIECE * page.evaluate("() => window.heard.length")
    page.get_by_role("button", name="Before", exact=True).click()
    page.wait_for_timeout(2500)
    page.get_by_role("button", name="Pause", exact=True).click(timeout=8_000)
    sound = heard_so_far(page)
    quarter = RATE // 4
    around = {"after": switch - APART // 2, "before": switch + APART // 2}
    return {side: sound[at - quarter : at + quarter] for side, at in around.items()}


def test_save_as_recipe_apply_to_others_and_download(page, state, tmp_path):
    page.goto(state["url"])
    wait_for_run(page)
    page.get_by_role("button", name="Save as recipe").click()
    page.get_by_label("Name").fill("Boat shed guide")
    check_accessibility(page)
    page.get_by_role("button", name="Save recipe").click()
    page.get_by_text("Saved as").wait_for()

    page.goto("/recipes")
    page.get_by_role("heading", name="Boat shed guide").wait_for()
    check_accessibility(page)
    mine = page.get_by_role("region", name="Boat shed guide")
    mine.get_by_role("button", name="Rename").click()
    page.get_by_label("Name", exact=True).fill("Boat shed, calm")
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="Boat shed, calm").wait_for()

    page.goto("/recordings")
    for name in OTHERS:
        page.get_by_label(f"Choose {name}").check()
    check_accessibility(page)
    page.get_by_role("button", name="Batch these").click()
    page.get_by_role("combobox", name="Recipe").click()
    page.get_by_role("option", name="Boat shed, calm").click()
    page.get_by_label("Name", exact=True).fill("November guides")
    page.get_by_role("combobox", name="Target").click()
    page.get_by_role("option", name="Broadcast").click()
    page.get_by_label("File names").fill("{number:02} {title}")
    page.get_by_role("button", name="Tags for all files").click()
    page.get_by_label("album").fill("Low Water Letters")
    page.get_by_text(re.compile(r"^02 .*\.wav$")).wait_for()
    check_accessibility(page)
    page.get_by_role("button", name="Start 2 recordings").click()
    page.get_by_role("heading", name="November guides").wait_for()
    page.get_by_text("2 done", exact=True).wait_for(timeout=90_000)
    check_accessibility(page)
    with page.expect_download() as download:
        page.get_by_role("link", name="Download 2 done").click()
    with zipfile.ZipFile(download.value.path()) as archive:
        names = [n for n in archive.namelist() if n.endswith(".wav")]
        assert sorted(n[3:] for n in names) == sorted(f"{n}.wav" for n in OTHERS)
        assert [n[:3] for n in names] == ["01 ", "02 "]
        for name in names:
            path = tmp_path / name
            path.write_bytes(archive.read(name))
            assert TaggedFile(path).tags["TALB"].text == ["Low Water Letters"]
            file = AudioFile(path)
            measures = measure(file.blocks(), file.info)
            assert measures.integrated_lufs == pytest.approx(-23.0, abs=0.1)
            assert measures.true_peak_dbtp <= -1.0
            receipt = json.loads(archive.read(f"receipts/{name}.receipt.json"))
            assert all(rule["is_met"] for rule in receipt["check"])
    # Each row tells how it stands to the target, and plays before and after.
    page.get_by_role("button", name=re.compile("Target of .*: 5 of 5 met")).first.click()
    page.get_by_role("table", name="Rules").wait_for()
    check_accessibility(page)
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^Listen to")).first.click()
    page.get_by_role("button", name="Play", exact=True).click()
    page.get_by_role("button", name="Pause", exact=True).wait_for()
    page.get_by_role("button", name="Before", exact=True).click()
    page.get_by_role("button", name="Match").click()
    page.get_by_text(re.compile(r"after [+\u2212]\d+\.\d dB")).wait_for()
    page.keyboard.press("Escape")


def test_room_tones_page_and_deleting(page, address):
    page.goto("/room-tones")
    page.get_by_role("region", name="boat shed").wait_for()
    check_accessibility(page)
    page.goto("/recipes")
    mine = page.get_by_role("region", name="Boat shed, calm")
    mine.get_by_role("button", name="Delete").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete").click()
    mine.wait_for(state="detached")
    kept = json.loads(page.request.get(f"{address}/api/recordings/").text())
    assert len(next(r for r in kept if r["name"] == FIRST)["chain"]) == 5


def test_an_address_that_leads_nowhere(page):
    page.goto("/recordings/00000000-0000-0000-0000-000000000000")
    page.get_by_role("link", name="All recordings").wait_for()
    check_accessibility(page)


def test_from_an_empty_address_to_an_mp3_in_five_clicks(browser, address, tmp_path):
    """One file, a recipe to start from, and the finished MP3 among the downloads."""
    source = write(tmp_path / "five clicks.wav", 0.2 * spoken(6) + noise(-58, 6))
    context = browser.new_context(base_url=address, accept_downloads=True)
    page = context.new_page()
    page.goto("/")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Add files").click()  # 1
    chooser.value.set_files(str(source))
    page.get_by_role("link", name="five clicks", exact=True).click()  # 2
    page.get_by_role("button", name=re.compile("^Close-microphone narration")).click()  # 3
    page.get_by_role("button", name="Deliver", exact=True).click()  # 4
    with page.expect_download(timeout=60_000) as download:
        page.get_by_role("button", name="Deliver the file").click()  # 5
    made = tmp_path / download.value.suggested_filename
    download.value.save_as(made)
    assert made.name == "five clicks.mp3"
    assert MP3(made).info.sample_rate == RATE
    page.get_by_text("is made and downloaded").wait_for()
    page.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Result of").click()
    assert page.get_by_role("link", name="five clicks.mp3").is_visible()
    context.close()


def test_from_a_dropped_file_to_an_mp3_at_its_level_in_four_presses(browser, address, tmp_path):
    """The chain that was made for the recording, and nothing else chosen."""
    source = write(tmp_path / "four presses.wav", 0.2 * spoken(20) + noise(-58, 20))
    context = browser.new_context(base_url=address, accept_downloads=True)
    page = context.new_page()
    page.goto("/")
    page.get_by_test_id("file-picker").set_input_files(str(source))
    page.get_by_role("link", name="four presses", exact=True).click()  # 1
    proposed = page.get_by_role("region", name="Proposed for this recording")
    proposed.get_by_text("The room lies").wait_for(timeout=30_000)
    check_accessibility(page)
    proposed.get_by_role("button", name="Take all").click()  # 2
    page.get_by_role("button", name="Deliver", exact=True).click()  # 3
    with page.expect_download(timeout=60_000) as download:
        page.get_by_role("button", name="Deliver the file").click()  # 4
    made = tmp_path / "made.mp3"
    download.value.save_as(made)
    file = AudioFile(made)
    measures = measure(file.blocks(), file.info)
    assert measures.integrated_lufs == pytest.approx(-19, abs=0.5)
    assert measures.true_peak_dbtp < 0
    context.close()
