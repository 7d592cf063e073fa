"""A stereo recording delivered in mono: what the chain did to each side stays in the sum."""

from __future__ import annotations

import numpy as np
import pyloudnorm
import pytest
import soundfile

from tests.made_sound import RATE, noise, spoken, write
from zesty_core.audio.encoding import Encoding
from zesty_core.audio.reader import AudioFile
from zesty_core.chain.recipe import chain_from_json
from zesty_core.delivery.deliver import Order, deliver
from zesty_core.delivery.folding import final_level_of
from zesty_core.foundation.signal import Span
from zesty_core.targets.document import Bound, Target

TARGET = Target("T", {"integrated_lufs": Bound(-17, -15, -16), "true_peak_dbtp": Bound(high=-1)})
PER_SIDE = [{"type": "normalize", "params": {"link_channels": False, "target_db": -6}}]
TURN_S = 5


@pytest.fixture
def interview(tmp_path):
    """Host on the left, guest on the right 10 dB lower, in turns."""
    silence = np.zeros((1, TURN_S * RATE), np.float32)
    voice = 0.4 * spoken(TURN_S)
    left = np.concatenate([voice, silence], axis=1)
    right = np.concatenate([silence, voice * 10 ** (-10 / 20)], axis=1)
    room = noise(-75, 2 * TURN_S, channels=2)
    return write(tmp_path / "interview.wav", np.concatenate([left, right]) + room)


def turns_lufs(path):
    """Loudness of host and guest in a finished file, by a general-purpose loudness library."""
    sound, rate = soundfile.read(path, always_2d=True)
    meter = pyloudnorm.Meter(rate)
    half = TURN_S * rate
    return [meter.integrated_loudness(part) for part in (sound[:half], sound[half:])]


def made(source, tmp_path, chain, channels, target=TARGET, container="WAV"):
    out = tmp_path / f"made-{channels}.{container.lower()}"
    order = Order(chain_from_json(chain), Encoding(container), target, channels=channels)
    return deliver(AudioFile(source), order, out), out


@pytest.mark.parametrize("target", [TARGET, None], ids=["with a target", "without"])
@pytest.mark.parametrize("channels", [1, 2])
def test_speakers_brought_together_per_side_stay_together(interview, tmp_path, channels, target):
    delivered, out = made(interview, tmp_path, PER_SIDE, channels, target)
    host, guest = turns_lufs(out)
    assert host - guest == pytest.approx(0, abs=1.0)
    assert AudioFile(out).info.channels == channels
    assert not target or not delivered.is_missed


@pytest.mark.parametrize(
    ("final", "measured", "reached"),
    [
        (
            {"type": "loudness", "params": {"target": -20, "ceiling_dbtp": -3}},
            "integrated_lufs",
            -20,
        ),
        ({"type": "normalize", "params": {"target_db": -2}}, "sample_peak_dbfs", -2),
    ],
)
def test_a_chain_that_ends_with_a_level_reaches_it_on_the_one_channel(
    interview, tmp_path, final, measured, reached
):
    delivered, out = made(
        interview, tmp_path, [*PER_SIDE, {"type": "compressor"}, final], 1, target=None
    )
    assert getattr(delivered.file, measured) == pytest.approx(reached, abs=0.1)
    host, guest = turns_lufs(out)
    assert host - guest == pytest.approx(0, abs=1.0)
    # before and after are of one channel both
    assert len(delivered.result.before.dc_offset) == len(delivered.result.after.dc_offset) == 1
    assert [point.type for point in delivered.result.points] == [
        "normalize",
        "compressor",
        final["type"],
    ]


def test_without_steps_mono_is_the_mean_of_the_sides(interview, tmp_path):
    _, out = made(interview, tmp_path, [], 1, target=None)
    sides = AudioFile(interview).read(0, 10 * RATE)
    got = AudioFile(out).read(0, 10 * RATE)
    assert np.abs(got - sides.mean(axis=0)).max() < 2**-23


@pytest.mark.parametrize(
    ("chain", "body"),
    [
        ([], 0),
        (["compressor", "loudness"], 1),
        (["compressor", "limiter", "gain", "loudness"], 1),
        (["normalize", "compressor"], 2),
        (["loudness", "compressor"], 2),
        ([{"type": "normalize", "params": {"link_channels": False}}, "loudness"], 1),
    ],
)
def test_where_the_final_level_begins(chain, body):
    entries = [{"type": e} if isinstance(e, str) else e for e in chain]
    first, final = final_level_of(chain_from_json(entries))
    assert (len(first), len(final)) == (body, len(chain) - body)


def test_the_room_tone_given_is_used_on_both_sides_and_read_behind_them(interview, tmp_path):
    from zesty_core.foundation.room_tone import RoomTone

    order = Order(
        chain_from_json([{"type": "noise_reduction", "params": {"depth_db": 12}}]),
        Encoding("WAV"),
        TARGET,
        channels=1,
    )
    tone = RoomTone(spans=(Span(2 * TURN_S - 0.4, 2 * TURN_S),))
    delivered = deliver(AudioFile(interview), order, tmp_path / "made.wav", room_tone=tone)
    assert delivered.result.room_tone == tone.spans[0]
    assert delivered.file.noise_floor_source == "room tone"
