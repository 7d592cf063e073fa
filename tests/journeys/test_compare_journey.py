"""Two sides in every way, several in a tasting, a page for a client, recipes and targets, by hand."""

from __future__ import annotations

import itertools
import json
import re
from contextlib import nullcontext

import numpy as np
import pytest
import soundfile
from playwright.sync_api import expect

from tests.journeys.listening import PIECE, heard_so_far, place_of
from tests.journeys.test_first_journey import check_accessibility
from tests.journeys.waiting import until
from tests.made_sound import RATE, STARTER, noise, sine, spoken, write
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.resample import resampled

pytestmark = pytest.mark.journey

CHAIN = [
    {"type": "normalize", "params": {"target_db": -6}},
    {"type": "eq", "params": {"bands": [{"type": "high_pass", "freq_hz": 200}]}},
    {"type": "gain", "params": {"gain_db": -3}},
]
# 44.1 and 48 kHz, mono and stereo.
KINDS = [(RATE, 1), (44_100, 2)]


def made(tmp_path, rate=RATE, channels=1, seed=1):
    voice = np.concatenate(
        [
            np.zeros((channels, rate), np.float32),
            spoken(7, rate=rate, channels=channels, seed=seed),
        ],
        axis=1,
    )
    sound = 0.4 * voice + noise(-60, 8, rate=rate, channels=channels)
    return write(tmp_path / f"take {rate} {channels} {seed}.wav", sound, rate)


def brought_in(page, path, steps):
    """A recording with a chain; gives its id."""
    headers = token(page) | {"Content-Type": "application/octet-stream"}
    address = f"/api/recordings/upload/?name={path.name.replace(' ', '%20')}"
    answer = page.request.post(address, data=path.read_bytes(), headers=headers)
    assert answer.ok, answer.text()
    recording = json.loads(answer.text())["id"]
    while json.loads(page.request.get(f"/api/recordings/{recording}/").text())["state"] != "done":
        page.wait_for_timeout(200)
    body = {"steps": steps}
    page.request.put(f"/api/recordings/{recording}/chain/", data=body, headers=token(page))
    return recording


def sides_shown(page, **names):
    for label, name in names.items():
        page.get_by_role("combobox", name=label.capitalize()).click()
        page.get_by_role("option", name=name).click()
    page.get_by_text(re.compile("in the passage")).wait_for(timeout=60_000)


@pytest.mark.parametrize(("rate", "channels"), KINDS)
def test_switching_sides_stays_at_the_same_sample(page, tmp_path, rate, channels):
    """Measured at the audio output, which runs at 48 kHz, after a seek by pausing as well."""
    path = made(tmp_path, rate, channels)
    recording = brought_in(page, path, [{"type": "gain", "params": {"gain_db": -6}}])
    page.goto(f"/recordings/{recording}/compare")
    page.get_by_role("button", name="Play").wait_for()
    with page.expect_request("**/sides/") as asked:
        page.reload()
    start, end = (asked.value.post_data_json[name] for name in ("start_s", "end_s"))
    page.get_by_text(re.compile("in the passage")).wait_for(timeout=60_000)
    source = AudioFile(path)
    loop = source.read(round(start * rate), round(end * rate))[:1]
    loop = resampled(np.ascontiguousarray(loop), rate, RATE)[0]
    for _ in range(4):
        page.get_by_role("button", name="Before", exact=True).click()
        page.get_by_role("button", name="Play").click()
        page.wait_for_timeout(700)
        page.get_by_role("button", name="Pause").click()
        page.get_by_role("button", name="Play").click()
        page.wait_for_timeout(700)
        page.evaluate("window.heard.length = 0")
        page.wait_for_timeout(900)
        page.get_by_role("button", name="After", exact=True).click()
        page.wait_for_timeout(1200)
        sound = heard_so_far(page)
        page.get_by_role("button", name="Pause").click()
        apart = apart_over_the_switch(sound, loop)
        # A busy machine loses blocks of what is recorded; then it is tried again. Sides that were
        # apart would be so each time.
        if apart is not None and apart <= (0 if rate == RATE else 1):
            break
    assert apart is not None, "nothing recorded could be placed"
    assert apart <= (0 if rate == RATE else 1)


def apart_over_the_switch(sound, loop):
    """Samples between where the side after should be and is, from the blocks next to the switch."""
    placed = []
    twice = np.concatenate([loop, loop])
    for start in range(0, len(sound) - PIECE + 1, PIECE):
        piece = sound[start : start + PIECE]
        at, fit = place_of(piece, twice)
        there = twice[at : at + PIECE]
        if fit > 0.9:
            factor_db = 20 * np.log10(np.linalg.norm(piece) / np.linalg.norm(there))
            placed.append((start, at, "before" if abs(factor_db) < 1 else "after"))
    pairs = [(a, b) for a, b in itertools.pairwise(placed) if (a[2], b[2]) == ("before", "after")]
    if not pairs:
        return None
    (start, at, _), (later, now, _) = pairs[0]
    apart = (now - at - (later - start)) % len(loop)
    return min(apart, len(loop) - apart)


def test_any_two_sides_are_shown_and_kept(page, tmp_path):
    recording = brought_in(page, made(tmp_path, seed=2), CHAIN)
    page.goto(f"/recordings/{recording}/compare")
    page.get_by_role("table", name="Measures").wait_for(timeout=60_000)
    sides_shown(page, before="1. After Normalize", after="3. After Gain")
    expect(page.get_by_role("status")).to_contain_text("softer")
    check_accessibility(page)
    page.get_by_role("button", name="Fine").click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Save Tone as SVG").click()
    assert "<svg" in download.value.path().read_text()
    with page.expect_download() as download:
        page.get_by_role("button", name="Save Loudness over time as PNG").click()
    assert download.value.path().read_bytes().startswith(b"\x89PNG")
    page.get_by_role("button", name="Play").click()
    page.get_by_role("button", name="Removed").click()
    page.get_by_text(re.compile(r"removed [\u2212+]\d+\.\d dBFS")).wait_for()
    page.get_by_role("button", name="Pause").click()


def test_a_stereo_result_is_compared_with_what_went_into_it(page, tmp_path):
    recording = brought_in(page, made(tmp_path, channels=2, seed=6), CHAIN)
    run = page.request.post("/api/runs/", data={"recording": recording}, headers=token(page)).json()
    while page.request.get(f"/api/runs/{run['id']}/").json()["state"] != "done":
        page.wait_for_timeout(200)
    page.goto(f"/recordings/{recording}/compare")
    page.get_by_role("table", name="Measures").wait_for(timeout=60_000)
    for picture in ("Loudness over time", "Share of time at each level"):
        page.get_by_role("img", name=re.compile(f"^{picture}.*After")).wait_for(timeout=60_000)
    expect(page.get_by_role("alert")).to_have_count(0)


def test_a_side_that_cannot_be_had_is_told(page, tmp_path):
    recording = brought_in(page, made(tmp_path, seed=3), CHAIN)
    brought_in(page, write(tmp_path / "short.wav", spoken(1)[:, :14_400]), [])
    page.goto(f"/recordings/{recording}/compare")
    page.get_by_role("combobox", name="After").click()
    page.get_by_role("option", name="short", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("lies outside of it")


def test_a_tasting_ends_with_the_best_as_the_chain(page, tmp_path):
    page.request.post(
        "/api/recipes/import/?name=starter", data=STARTER.read_text(), headers=token(page)
    )
    recording = brought_in(page, made(tmp_path, seed=4), CHAIN)
    page.goto(f"/recordings/{recording}/tasting")
    for label in ("The chain as it is set", "Boat shed narration"):
        page.get_by_label(label, exact=True).check()
    check_accessibility(page)
    page.get_by_role("button", name="Taste 2").click()
    page.get_by_role("region", name="Treatment 1").wait_for(timeout=60_000)
    assert page.get_by_text("Boat shed narration").count() == 0
    page.get_by_role("button", name="Play").click()
    page.keyboard.press("2")
    second = page.get_by_role("region", name="Treatment 2")
    expect(second.get_by_role("button", name="2")).to_have_attribute("aria-pressed", "true")
    for which in (2, 1):
        page.get_by_role("combobox", name=f"Place of {which}").click()
        page.get_by_role("option").last.click()
    page.get_by_role("button", name="Keep the ranking and tell the names").click()
    page.get_by_text("Kept. Best liked:").wait_for()
    check_accessibility(page)
    best = second.get_by_role("button", name=re.compile("^Use it as the chain"))
    is_another = "Boat shed" in best.get_attribute("aria-label")
    # The chain that is set already is no change, and is not sent.
    arrives = page.expect_response(re.compile("/chain/$")) if is_another else nullcontext()
    with arrives:
        best.click()
    page.get_by_role("heading", name="Level path").wait_for()
    kept = json.loads(page.request.get(f"/api/recordings/{recording}/").text())
    assert len(kept["chain"]) == (6 if is_another else 3)


def test_a_page_for_a_client_works_on_its_own(page, browser, tmp_path):
    recording = brought_in(page, made(tmp_path, seed=5), CHAIN)
    page.goto(f"/recordings/{recording}")
    page.get_by_role("button", name="Run the chain").click()
    page.get_by_role("button", name="Run again").wait_for(timeout=60_000)
    page.goto(f"/recordings/{recording}/compare")
    page.get_by_role("region", name="Spectrograms").wait_for()
    check_accessibility(page)
    with page.expect_download() as download:
        page.get_by_role("link", name="Page for a client").click()
    path = tmp_path / "client.html"
    download.value.save_as(path)
    alone = browser.new_context(offline=True).new_page()
    faults = []
    alone.on("pageerror", lambda error: faults.append(str(error)))
    alone.goto(path.as_uri())
    alone.get_by_role("button", name="Play").click()
    alone.get_by_role("button", name="Pause").wait_for()
    time_s = "() => parseFloat(document.getElementById('time').textContent.slice(2))"
    until(alone, lambda: alone.evaluate(time_s) > 0.3)
    alone.get_by_role("radio", name="Before").check()
    alone.context.close()
    assert faults == []


def test_a_voice_is_heard_over_a_bed_and_the_mix_delivered(page, tmp_path):
    recording = brought_in(page, made(tmp_path, seed=9), [{"type": "gain"}])
    page.goto(f"/recordings/{recording}/bed")
    page.get_by_role("heading", name="Nothing to lay on a bed yet").wait_for()
    page.goto(f"/recordings/{recording}")
    page.get_by_role("button", name="Run the chain").click()
    page.get_by_role("button", name="Run again").wait_for(timeout=60_000)
    page.get_by_role("link", name="Over a bed").click()
    page.get_by_text("bring in a piece of music").wait_for()
    tide = write(tmp_path / "tide.wav", sine(-20, 6, 220, channels=2))
    page.get_by_test_id("bed-picker").set_input_files(str(tide))
    status = page.get_by_role("status")
    status.wait_for()
    check_accessibility(page)
    shallow = float(re.search(r"typically stands (\d+\.\d)", status.inner_text()).group(1))
    dip = page.get_by_label("Ducking", exact=True)
    dip.fill("24")
    dip.press("Enter")
    expect(status).to_contain_text(re.compile(rf"stands {shallow + 12:.0f}\.|{shallow + 12:.1f}"))
    page.get_by_role("button", name="Play").click()
    page.get_by_role("button", name="Bed alone").click()
    page.get_by_role("button", name="Pause").click()
    page.get_by_role("button", name="Deliver the mix").click()
    page.get_by_role("combobox", name="Target").click()
    page.get_by_role("option", name="Podcast, stereo").click()
    page.get_by_label("File name").fill("Letter over the tide")
    page.get_by_role("button", name="Tags (1)").click()
    page.get_by_label("artist").fill("Observatory")
    check_accessibility(page)
    page.get_by_role("button", name="Make the mix").click()
    page.get_by_role(
        "button", name=re.compile("^Target of Letter over the tide: [56] of")
    ).wait_for()
    check_accessibility(page)
    with page.expect_download() as download:
        page.get_by_role("link", name="Download Letter over the tide").click()
    info = soundfile.info(download.value.path())
    assert info.duration == pytest.approx(3 + 8 + 5, abs=0.1)
    assert info.channels == 2
    receipt = page.get_by_role("link", name="Receipt of Letter over the tide").get_attribute("href")
    assert "Observatory" in page.request.get(receipt.replace("-page", "")).text()
    assert "over the bed" in page.request.get(receipt).text()
    page.get_by_role("button", name="Delete Letter over the tide").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete").click()
    page.get_by_role("region", name="Mixes").wait_for(state="detached")
    page.get_by_role("button", name="Delete this bed").click()
    page.get_by_role("dialog", name="Delete the bed tide?").get_by_role(
        "button", name="Delete"
    ).click()
    page.get_by_text("bring in a piece of music").wait_for()


def test_a_chain_is_fitted_to_its_target(page, tmp_path):
    recording = brought_in(page, made(tmp_path, seed=6), CHAIN)
    page.goto(f"/recordings/{recording}")
    page.get_by_role("button", name="No target").click()
    page.get_by_role("combobox", name="Target").click()
    page.get_by_role("option", name="Podcast, mono").click()
    check_accessibility(page)
    page.get_by_role("button", name="Fit the last steps").click()
    page.get_by_role("button", name="Podcast, mono: 2 of 2 met").wait_for(timeout=60_000)
    page.get_by_role("button", name="Loudness", exact=True).wait_for()
    path = page.get_by_role("img", name=re.compile("^Level path"))
    assert "Target: ceiling" in path.get_attribute("aria-label")


def test_targets_are_made_and_changed(page):
    page.goto("/targets")
    page.get_by_role("button", name="New target").click()
    page.get_by_label("Name").fill("Guide, loud")
    page.get_by_label("Loudness at least").fill("-15")
    page.get_by_label("Loudness at most").fill("-20")
    page.get_by_role("button", name="Keep target").click()
    expect(page.get_by_role("alert")).to_contain_text("must not be above high")
    page.get_by_label("Loudness at most").fill("\u221214")
    check_accessibility(page)
    page.get_by_role("button", name="Keep target").click()
    row = page.get_by_role("region", name="Guide, loud")
    expect(row).to_contain_text("Loudness \u221215.0 to \u221214.0 LUFS")
    row.get_by_role("button", name="Delete Guide, loud").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete").click()
    row.wait_for(state="detached")


def test_versions_of_a_recipe(page):
    page.goto("/recipes")
    mine = page.get_by_role("region", name="E-learning clip", exact=True)
    mine.get_by_role("button", name="Copy").click()
    copy = page.get_by_role("region", name="E-learning clip copy")
    copy.wait_for()
    found = json.loads(page.request.get("/api/recipes/").text())
    recipe = next(r for r in found if r["name"] == "E-learning clip copy")
    recipe["steps"][1]["params"]["depth_db"] = 9
    page.request.patch(
        f"/api/recipes/{recipe['id']}/", data={"steps": recipe["steps"]}, headers=token(page)
    )
    page.reload()
    copy.get_by_role("button", name="Version history").click()
    copy.get_by_text("Noise reduction: depth 14 dB to 9 dB").wait_for()
    check_accessibility(page)
    copy.get_by_role("button", name="Go back to version 1").click()
    copy.get_by_text("Noise reduction: depth 9 dB to 14 dB").wait_for()
    page.get_by_label("Search").fill("lessons copy")
    mine.wait_for(state="detached")


def token(page):
    cookies = {c["name"]: c["value"] for c in page.context.cookies()}
    if "csrftoken" not in cookies:
        page.goto("/recordings")
        cookies = {c["name"]: c["value"] for c in page.context.cookies()}
    return {"X-CSRFToken": cookies["csrftoken"]}
