"""Deliveries: the file itself meets the target, tags and receipts tell what it is."""

from __future__ import annotations

import itertools
import json
from dataclasses import replace

import numpy as np
import pyloudnorm
import pytest
import soundfile
from mutagen import File as TaggedFile

from tests.made_sound import PICTURE, RATE, RECORDINGS, STARTER, noise, spoken, write
from zesty_core.audio.encoding import Encoding
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.tags import Cover
from zesty_core.chain.recipe import Recipe, chain_from_json, read_recipe
from zesty_core.delivery.deliver import Order, deliver, remove_staged
from zesty_core.delivery.ending import MOST_LIMITED_DB, body_of
from zesty_core.delivery.file_job import FileJob, deliver_file, receipt_path
from zesty_core.delivery.level_set import offsets_lu
from zesty_core.delivery.names import file_name, without_collisions
from zesty_core.foundation.errors import BadInput, BadSetting, Cancelled, UnwritableAudio
from zesty_core.foundation.signal import SignalInfo
from zesty_core.targets.document import Bound, FileWish, Target
from zesty_core.targets.starters import STARTERS

WIDE = Target("T", {"integrated_lufs": Bound(-17, -15, -16), "true_peak_dbtp": Bound(high=-1)})


@pytest.fixture
def take(tmp_path):
    voice = np.concatenate([np.zeros((1, 2 * RATE), np.float32), spoken(6)], axis=1)
    return write(tmp_path / "take.wav", 0.3 * voice + noise(-60, 8))


def job(take, tmp_path, **changes):
    out = tmp_path / "out"
    out.mkdir(exist_ok=True)
    plain = FileJob(
        take, out, "made", Recipe("None", ()), Encoding("WAV"), WIDE, sha256="of the take"
    )
    return replace(plain, **changes)


# Speech that is pressed against its ceiling by every encoder; stereo doubles, mono halves.
@pytest.mark.parametrize(
    ("target", "recording"),
    [
        *zip(
            STARTERS,
            itertools.cycle(["letters-31-warden.wav", "counting-lesson-3.wav"]),
            strict=False,
        )
    ],
    ids=lambda v: getattr(v, "name", v),
)
def test_the_finished_file_meets_every_starter_target(tmp_path, target, recording):
    made = deliver_file(
        FileJob(
            RECORDINGS / recording,
            tmp_path,
            "made",
            read_recipe(STARTER),
            target.file.encoding(),
            target,
            target.file.sample_rate_hz,
            target.file.channels,
        )
    )
    assert {r["name"]: (r["is_met"], r["got"]) for r in made["check"] if not r["is_met"]} == {}
    name = tmp_path / made["file"]["name"]
    sound, rate = soundfile.read(name)
    # A general-purpose loudness library agrees, on the decoded file.
    loudness = pyloudnorm.Meter(rate).integrated_loudness(sound)
    assert made["after"]["integrated_lufs"] == pytest.approx(loudness, abs=0.1)
    assert made["after"]["rms_dbfs"] == pytest.approx(10 * np.log10(np.mean(sound**2)), abs=0.1)


@pytest.mark.parametrize("container", ["MP3", "OGG", "OPUS"])
def test_an_encoder_that_raises_peaks_does_not_break_the_ceiling(tmp_path, container):
    """Noise bursts at the ceiling: lossy coding is known to add a decibel or more to them."""
    bursts = noise(-14, 6, seed=4) * (np.sin(2 * np.pi * 1.5 * np.arange(6 * RATE) / RATE) > 0.3)
    source = write(tmp_path / "bursts.wav", (bursts + noise(-65, 6)).astype(np.float32))
    made = deliver_file(job(source, tmp_path, encoding=Encoding(container, bitrate_kbps=64)))
    peak = next(r for r in made["check"] if r["name"] == "true_peak_dbtp")
    assert peak["is_met"], peak


def test_a_level_that_would_harm_is_refused_and_said(take, tmp_path):
    target = Target(
        "Loud", {"integrated_lufs": Bound(-1.5, -0.5), "true_peak_dbtp": Bound(high=-1)}
    )
    made = deliver_file(job(take, tmp_path, target=target))
    level, peak = made["check"]
    assert not level["is_met"]
    assert level["off_by"] < -1
    assert peak["is_met"]
    assert any("more than is sound" in note for note in made["notes"])
    limiter = next(s for s in made["steps"] if s["type"] == "limiter")
    assert limiter["report"]["max_reduction_db"] <= MOST_LIMITED_DB + 0.5


def test_pauses_that_pass_the_absolute_gate_do_not_move_the_level(tmp_path):
    """BS.1770-5 gates at -70 LUFS: a gain that takes pauses past it counts other blocks."""
    # Words, softer words, and a long pause whose noise passes the gate when it is turned up.
    pause = np.zeros((1, 30 * RATE), np.float32)
    parts = [0.2 * spoken(10), 0.2 * 10 ** (-11 / 20) * spoken(8), pause]
    voice = np.concatenate(parts, axis=1)
    sound = voice + noise(-77, voice.shape[1] / RATE)
    path = write(tmp_path / "quiet.wav", sound)
    target = Target("Exact", {"integrated_lufs": Bound(-20.5, -19.5, -20.0)})
    made = deliver_file(job(path, tmp_path, target=target))
    sound, rate = soundfile.read(tmp_path / "out" / made["file"]["name"])
    assert pyloudnorm.Meter(rate).integrated_loudness(sound) == pytest.approx(-20, abs=0.08)
    assert made["after"]["integrated_lufs"] == pytest.approx(-20, abs=0.03)


def test_silence_gets_no_level_and_no_made_up_figure(tmp_path):
    source = write(tmp_path / "silent.wav", np.zeros((1, RATE), np.float32))
    made = deliver_file(job(source, tmp_path))
    assert [r["is_met"] for r in made["check"]] == [None, None]
    assert any("no final level" in note for note in made["notes"])


def test_head_and_tail_are_cut_and_filled(take, tmp_path):
    target = Target("Ends", {"head_s": Bound(0.5, 1.0), "tail_s": Bound(2.5, 3.5)})
    made = deliver_file(job(take, tmp_path, target=target))
    assert [r["is_met"] for r in made["check"]] == [True, True]
    assert made["edits"]["cuts"]
    assert made["edits"]["pad_end_s"] > 0.5
    sound = soundfile.read(tmp_path / "out" / "made.wav")[0]
    # What was filled in is room, not silence.
    assert 20 * np.log10(np.std(sound[-RATE:])) == pytest.approx(
        made["after"]["noise_floor_dbfs"], abs=2
    )


def test_the_chain_of_the_receipt_makes_the_same_bytes(take, tmp_path):
    first = deliver_file(job(take, tmp_path))
    chain = chain_from_json(first["chain"])
    again = deliver_file(job(take, tmp_path, name="again", recipe=Recipe("R", chain), target=None))
    assert again["file"]["sha256"] == first["file"]["sha256"]
    text = receipt_path(tmp_path / "out" / "made.wav").read_text()
    assert json.loads(text)["file"]["name"] == "made.wav"
    page = (tmp_path / "out" / "made.wav.receipt.html").read_text()
    assert "made.wav" in page
    assert "http" not in page.replace("http-equiv", "")


@pytest.mark.parametrize(
    ("container", "read"),
    [
        ("MP3", lambda f: (f.tags["TIT2"].text[0], f.tags.getall("APIC")[0].data)),
        ("WAV", lambda f: (f.tags["TIT2"].text[0], f.tags.getall("APIC")[0].data)),
        ("FLAC", lambda f: (f["title"][0], f.pictures[0].data)),
        ("OGG", lambda f: (f["title"][0], PICTURE if "metadata_block_picture" in f else b"")),
        ("OPUS", lambda f: (f["title"][0], PICTURE if "metadata_block_picture" in f else b"")),
    ],
)
def test_tags_and_cover_are_read_back_by_a_library(take, tmp_path, container, read):
    cover = Cover.checked(PICTURE, "cover.png")
    made = deliver_file(
        job(
            take,
            tmp_path,
            encoding=Encoding(container),
            tags={"title": "Low Water Letters 31"},
            cover=cover,
            target=None,
        )
    )
    file = TaggedFile(tmp_path / "out" / made["file"]["name"])
    assert read(file) == ("Low Water Letters 31", PICTURE)


@pytest.mark.parametrize(
    ("data", "word"), [(b"GIF89a", "JPEG or PNG"), (PICTURE + bytes(6_000_000), "at most")]
)
def test_a_bad_cover_is_refused(data, word):
    with pytest.raises(BadInput, match=word):
        Cover.checked(data, "cover")


def test_nothing_is_left_behind_by_what_fails(take, tmp_path):
    order = Order((), Encoding("WAV"), WIDE)
    out = tmp_path / "out"
    out.mkdir()
    with pytest.raises(Cancelled):
        deliver(AudioFile(take), order, out / "a.wav", cancelled=lambda: True)
    assert list(out.iterdir()) == []
    with pytest.raises(UnwritableAudio, match="folder does not exist"):
        deliver(AudioFile(take), order, tmp_path / "nowhere" / "a.wav")
    (out / ".zesty-x").mkdir()
    remove_staged(out)
    assert list(out.iterdir()) == []


@pytest.mark.parametrize(
    ("types", "left"),
    [
        (["eq", "limiter", "loudness"], ["eq"]),
        (["normalize", "limiter"], ["normalize"]),
        (["normalize"], ["normalize"]),
        (["loudness", "eq"], ["loudness", "eq"]),
        (["eq", "gain", "normalize", "limiter"], ["eq"]),
        ([], []),
    ],
)
def test_the_steps_that_set_the_level_are_told_from_the_rest(types, left):
    chain = chain_from_json([{"type": t} if t != "eq" else _eq() for t in types])
    assert [entry.step.type for entry in body_of(chain)[0]] == left


def _eq():
    return {"type": "eq", "params": {"bands": [{"type": "bell", "gain_db": 3}]}}


def test_a_set_keeps_its_differences_around_the_loudness_of_all():
    offsets = offsets_lu([-20.0, -26.0, None])
    assert offsets[0] - offsets[1] == pytest.approx(6.0)
    assert offsets[2] == 0.0
    assert 10 ** (offsets[0] / 10) + 10 ** (offsets[1] / 10) == pytest.approx(2.0, abs=0.01)
    assert offsets_lu([None]) == [0.0]


VALUES = {"show": "Low Water Letters", "take": 3, "title": "Opening", "label": ""}


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("{title}", "Opening"),
        ("{show}-{take:02}-{title}", "Low Water Letters-03-Opening"),
        ("{label}-{title}", "Opening"),
        ("{title} - {label} - {take}", "Opening - 3"),
        ("{title}/../{take}", "Opening-..-3"),
        ("{label}", "recording"),
        ("con", "con-"),
        ("a:b*c", "a-b-c"),
        ("Hide guide: causeway", "Hide guide - causeway"),
    ],
)
def test_names_come_from_patterns(pattern, name):
    assert file_name(pattern, VALUES) == name


@pytest.mark.parametrize("pattern", ["", "{", "{colour}", "{title!r}", "{take:>9}", "x" * 200])
def test_a_faulty_pattern_is_refused(pattern):
    with pytest.raises(BadSetting, match="name_pattern"):
        file_name(pattern, VALUES)


def test_names_that_are_taken_get_a_number():
    assert without_collisions(["A", "a", "B"], ["b"]) == ["A", "a 2", "B 2"]


def test_mono_of_a_stereo_recording_is_what_is_judged(tmp_path):
    sides = np.concatenate([0.3 * spoken(6), np.zeros((1, 6 * RATE), np.float32)])
    source = write(tmp_path / "side.wav", (sides + noise(-70, 6, channels=2)).astype(np.float32))
    target = Target("M", WIDE.bounds, FileWish("WAV", channels=1))
    made = deliver_file(job(source, tmp_path, target=target, channels=1))
    assert all(rule["is_met"] for rule in made["check"])
    assert AudioFile(tmp_path / "out" / "made.wav").info == SignalInfo(RATE, 1, 6 * RATE)
