"""Room: speech in made rooms comes closer to the voice, a dry voice stays."""

from __future__ import annotations

import numpy as np
import pytest
from pystoi import stoi
from scipy.signal import fftconvolve

from tests.interview import lines
from tests.made_sound import RATE, level_db
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource, joined

SPEED_OF_SOUND_M_PER_S = 343.0


def room_response(rt60_s, size_m, voice_m, microphone_m):
    """Image method (Allen & Berkley, JASA 65(4), 1979), absorption after Eyring; up to 4 kHz enough."""
    size = np.array(size_m)
    surface = 2 * (size[0] * size[1] + size[0] * size[2] + size[1] * size[2])
    kept = np.exp(-0.5 * 0.161 * size.prod() / (surface * rt60_s))
    samples = round(rt60_s * RATE)
    response = np.zeros(samples + 1)
    counts = np.ceil(rt60_s * SPEED_OF_SOUND_M_PER_S / (2 * size)).astype(int)
    grids = [np.arange(-n, n + 1) for n in counts]
    for mirrored in np.ndindex(2, 2, 2):
        apart, bounces = [], []
        for axis, (mirror, grid) in enumerate(zip(mirrored, grids, strict=True)):
            place = (1 - 2 * mirror) * voice_m[axis] + 2 * grid * size[axis]
            apart.append(place - microphone_m[axis])
            bounces.append(np.abs(grid - mirror) + np.abs(grid))
        x, y, z = np.ix_(*apart)
        far_m = np.sqrt(x * x + y * y + z * z).ravel()
        a, b, c = np.ix_(*bounces)
        gain = kept ** (a + b + c).ravel() / (4 * np.pi * far_m)
        at = far_m / SPEED_OF_SOUND_M_PER_S * RATE
        near = at < samples
        first = at[near].astype(int)
        share = at[near] - first
        np.add.at(response, first, gain[near] * (1 - share))
        np.add.at(response, first + 1, gain[near] * share)
    return response


ROOMS = {
    "bedroom": (0.35, (3.4, 2.9, 2.4), (1.2, 1.1, 1.3), (2.1, 1.6, 1.2)),
    "kitchen": (0.6, (4.1, 3.2, 2.6), (1.1, 1.4, 1.4), (2.2, 1.9, 1.1)),
    "hall": (0.9, (6.2, 4.8, 3.1), (2.1, 1.7, 1.5), (3.3, 2.2, 1.2)),
}


def voice():
    sound = np.concatenate([np.pad(line, (0, 12_000)) for line in lines("letters-warden")])
    return sound[: 14 * RATE].astype(np.float64)


def processed(sound, **params):
    out = []
    source = ArraySource(np.atleast_2d(sound).astype(np.float32), RATE)
    result = run_chain(source, chain_from_json([{"type": "room", "params": params}]), out.append)
    return joined(out, source.info.channels), result.points[0].report


def direct_to_reverberant_db(dry, sound):
    """Of the response from the dry voice to the sound, found by regularised division of spectra."""
    size = 1 << 20
    voice_, heard = np.fft.rfft(dry, size), np.fft.rfft(sound, size)
    power = np.square(np.abs(voice_))
    response = np.fft.irfft(np.conj(voice_) * heard / (power + 1e-4 * power.mean()))[:RATE]
    direct = np.argmax(np.abs(response))
    powers = np.square(response)
    return 10 * np.log10(powers[direct - 96 : direct + 96].sum() / powers[direct + 96 :].sum())


@pytest.mark.parametrize("room", ROOMS)
def test_speech_in_a_room_is_understood_better_and_its_pauses_are_drier(room):
    dry = voice()
    response = room_response(*ROOMS[room])
    direct = np.argmax(np.abs(response))
    wet = fftconvolve(dry, response)[: len(dry)]
    near = fftconvolve(dry, np.where(np.arange(len(response)) < direct + 96, response, 0))
    out, report = processed(wet * 0.1 / wet.std())
    out, near = out[0].astype(float), near[: len(dry)]
    before, after = (stoi(near, s, RATE, extended=True) for s in (wet, out))
    assert after > before + 0.02
    assert report["room_db"] > -8
    assert direct_to_reverberant_db(dry, out) > direct_to_reverberant_db(dry, wet) + 4
    # Just behind a line's last sound, what is left is room.
    silent = np.convolve(np.square(near), np.ones(4800), "same") < 1e-7 * np.square(near).max()
    stops = np.flatnonzero(silent[2 * RATE : 12 * RATE]) + 2 * RATE
    behind = slice(stops[0], stops[0] + 7200)
    fell = [level_db(s[behind]) - level_db(s) for s in (wet, out)]
    assert fell[1] < fell[0] - 6


def test_a_dry_voice_keeps_every_bit():
    dry = (voice() * 0.5).astype(np.float32)
    out, report = processed(dry)
    assert "next to no reverberation" in report["note"]
    assert np.array_equal(out[0], dry)


def test_depth_limits_what_goes_and_the_sides_keep_their_places():
    dry = voice()
    wet = fftconvolve(dry, room_response(*ROOMS["kitchen"]))[: len(dry)]
    sides = np.stack([wet, 0.5 * wet])
    out, _ = processed(sides)
    assert level_db(out[1] - 0.5 * out[0]) < level_db(out[1]) - 60
    shallow, _ = processed(wet, depth_db=3.0)
    assert level_db(shallow[0] - wet) < level_db(out[0] - wet)


def test_silence_and_short_sounds_pass():
    for samples in (1, 480, RATE):
        out, _ = processed(np.zeros(samples))
        assert out.shape == (1, samples)
        assert not out.any()
