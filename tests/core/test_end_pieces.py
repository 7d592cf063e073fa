"""Intro and outro joined to a voice: where, how loud, and what the finished file measures."""

from __future__ import annotations

import numpy as np
import pyloudnorm
import pytest
import soundfile

from tests.made_sound import RATE, noise, sine, spoken, write
from zesty_core.audio.encoding import Encoding
from zesty_core.audio.markers import Chapter
from zesty_core.audio.reader import AudioFile
from zesty_core.chain.recipe import chain_from_json
from zesty_core.delivery.deliver import Order, deliver
from zesty_core.delivery.end_pieces import EndPiece, JoinedSource
from zesty_core.delivery.receipt import Origin, receipt_of, receipt_page
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import ArraySource
from zesty_core.targets.document import Bound, Target

TARGET = Target("T", {"integrated_lufs": Bound(-17, -15, -16), "true_peak_dbtp": Bound(high=-1)})
VOICE_S, INTRO_S, OUTRO_S = 10.0, 6.0, 4.0


@pytest.fixture
def voice(tmp_path):
    return write(tmp_path / "voice.wav", spoken(VOICE_S) + noise(-70, VOICE_S))


def piece(tmp_path, name, seconds, rate=44_100, channels=2, **settings):
    path = write(
        tmp_path / f"{name}.wav", sine(-9, seconds, 440, rate=rate, channels=channels), rate
    )
    return EndPiece.checked(path, name, settings.get("overlap_s", 0), settings.get("level_lu", 0))


@pytest.mark.parametrize("level_lu", [0.0, -6.0])
@pytest.mark.parametrize("channels", [1, 2])
def test_the_whole_file_meets_its_target_and_the_pieces_stand_to_the_voice(
    voice, tmp_path, level_lu, channels
):
    """Loudness of each part of the finished file by a general-purpose loudness library."""
    order = Order(
        chain_from_json([{"type": "gain", "params": {"gain_db": -6}}]),
        Encoding("WAV"),
        TARGET,
        channels=channels,
        intro=piece(tmp_path, "intro", INTRO_S, level_lu=level_lu),
        outro=piece(tmp_path, "outro", OUTRO_S, level_lu=level_lu),
    )
    out = tmp_path / "made.wav"
    delivered = deliver(AudioFile(voice), order, out)
    sound, rate = soundfile.read(out, always_2d=True)
    assert len(sound) == (INTRO_S + VOICE_S + OUTRO_S) * rate
    assert sound.shape[1] == channels
    meter = pyloudnorm.Meter(rate)
    assert meter.integrated_loudness(sound) == pytest.approx(-16, abs=0.2)
    assert not delivered.is_missed
    at, end = round(INTRO_S * rate), round((INTRO_S + VOICE_S) * rate)
    intro, own, outro = (meter.integrated_loudness(x) for x in np.split(sound, [at, end]))
    # The limiter takes a little off the voice alone.
    assert intro - own == pytest.approx(level_lu, abs=0.8)
    assert outro - own == pytest.approx(level_lu, abs=0.8)


def joined(intro_overlap_s=0.0, outro_overlap_s=0.0, tmp_path=None, voice_s=4.0):
    own = ArraySource(noise(-30, voice_s), RATE)
    ends = JoinedSource(
        own,
        1,
        None,
        piece(tmp_path, "intro", 2.0, RATE, 1, overlap_s=intro_overlap_s),
        piece(tmp_path, "outro", 3.0, RATE, 1, overlap_s=outro_overlap_s),
    )
    return own, ends


@pytest.mark.parametrize(("intro_s", "outro_s"), [(0.0, 0.0), (1.0, 0.5), (2.0, 3.0)])
def test_the_voice_is_untouched_but_for_what_fades_under_it(tmp_path, intro_s, outro_s):
    own, ends = joined(intro_s, outro_s, tmp_path)
    whole = ends.read(0, ends.info.length_samples)
    assert ends.info.duration_s == pytest.approx(9.0 - intro_s - outro_s)
    start = round((2.0 - intro_s) * RATE)
    low, high = round(intro_s * RATE), round((4.0 - outro_s) * RATE)
    if high > low:
        assert np.array_equal(whole[:, start + low : start + high], own.read(low, high))
    assert np.array_equal(np.concatenate(list(ends.blocks(7777)), axis=1), whole)
    heard = []
    sink = ends.voice_sink(heard.append)
    for block in ends.blocks(7777):
        sink(block)
    assert np.concatenate(heard, axis=1).shape == (1, own.info.length_samples)


def test_the_piece_fades_out_over_the_overlap(tmp_path):
    own, ends = joined(1.0, 0.0, tmp_path)
    under = ends.read(RATE, 2 * RATE) - own.read(0, RATE)
    levels = [float(np.abs(under[:, i : i + 480]).max()) for i in range(0, RATE, 4800)]
    assert levels[0] == pytest.approx(10 ** (-9 / 20), rel=0.02)
    assert levels == sorted(levels, reverse=True)
    assert levels[-1] < 0.1 * levels[0]


def test_an_overlap_longer_than_the_voice_stops_at_its_length(tmp_path):
    _, ends = joined(2.0, 3.0, tmp_path, voice_s=1.0)
    assert ends.info.duration_s == pytest.approx(2.0 + 3.0 - 1.0)


def test_chapters_and_receipt_know_of_the_pieces(voice, tmp_path):
    order = Order(
        (),
        Encoding("MP3"),
        TARGET,
        chapters=(Chapter(0.0, 4.0, "Tides"), Chapter(4.0, VOICE_S, "Reeds")),
        intro=piece(tmp_path, "Gulls <at dawn>", INTRO_S, overlap_s=1.5),
    )
    out = tmp_path / "made.mp3"
    source = AudioFile(voice)
    delivered = deliver(source, order, out)
    assert [(c.start_s, c.name) for c in delivered.chapters] == [(0.0, "Tides"), (8.5, "Reeds")]
    assert delivered.chapters[-1].end_s == pytest.approx(INTRO_S - 1.5 + VOICE_S, abs=0.001)
    origin = Origin("voice.wav", "0" * 64, source.info, "", None, {})
    receipt = receipt_of(delivered, out, "made.mp3", origin, target=TARGET)
    [told] = receipt["joined"]
    assert told["place"] == "intro"
    assert told["sha256"] == order.intro.sha256
    page = receipt_page(receipt)
    assert "Gulls &lt;at dawn&gt;" in page
    assert "<at dawn>" not in page
    assert "Reeds" in page


def test_without_a_target_pieces_are_joined_at_the_voices_own_level(voice, tmp_path):
    order = Order(
        (), Encoding("WAV", depth="32f"), intro=piece(tmp_path, "intro", 2.0, level_lu=-3)
    )
    out = tmp_path / "made.wav"
    deliver(AudioFile(voice), order, out)
    sound, rate = soundfile.read(out)
    original, _ = soundfile.read(voice)
    assert sound[2 * rate :] == pytest.approx(original, abs=1e-6)
    meter = pyloudnorm.Meter(rate)
    intro, own = (meter.integrated_loudness(x) for x in np.split(sound, [2 * rate]))
    assert intro - own == pytest.approx(-3, abs=0.2)


@pytest.mark.parametrize(
    ("seconds", "settings", "words"),
    [
        (181.0, {}, "up to 180 s"),
        (2.0, {"overlap_s": 31.0}, "0 to 30 s"),
        (2.0, {"level_lu": 13.0}, "-30 to \\+12 LU"),
    ],
)
def test_pieces_that_do_not_serve(tmp_path, seconds, settings, words):
    with pytest.raises(BadInput, match=words):
        piece(tmp_path, "intro", seconds, rate=8_000, channels=1, **settings)
