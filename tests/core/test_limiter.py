"""Limiter: the ceiling holds by an independent true-peak measure, whatever comes in."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal

from tests.made_sound import RATE, level_db, noise, sine, spoken
from zesty_core.foundation.signal import SignalInfo
from zesty_core.steps.limiter import Limiter


def limited(sound, step, rate=RATE, block=8_192):
    processor = step.start(SignalInfo(rate, len(sound), sound.shape[1]), {})
    out = [processor.push(sound[:, i : i + block]) for i in range(0, sound.shape[1], block)]
    return np.concatenate([*out, processor.finish()], axis=1), processor


# ITU-R BS.1770-5 Annex 2, coefficients of the first two phases (from memory); the others mirror them.
ANNEX_2 = np.array(
    [
        [0.0017089843750, 0.0109863281250, -0.0196533203125, 0.0332031250000, -0.0594482421875,
         0.1373291015625, 0.9721679687500, -0.1022949218750, 0.0476074218750, -0.0266113281250,
         0.0148925781250, -0.0083007812500],
        [-0.0291748046875, 0.0292968750000, -0.0517578125000, 0.0891113281250, -0.1665039062500,
         0.4650878906250, 0.7797851562500, -0.2003173828125, 0.1015625000000, -0.0582275390625,
         0.0330810546875, -0.0189208984375],
    ]
)  # fmt: skip


def annex_2_db(sound):
    """The standard's own meter."""
    taps = [*ANNEX_2, *ANNEX_2[:, ::-1]]
    return 20 * np.log10(max(np.abs(np.convolve(c, t)).max() for c in sound for t in taps))


def eightfold_db(sound):
    """SciPy's interpolator, eight times."""
    return 20 * np.log10(np.abs(signal.resample_poly(sound.astype(float), 8, 1, axis=1)).max())


def clicks(rate):
    x = 0.05 * np.random.default_rng(3).standard_normal((1, rate))
    x[0, ::997] = 0.99
    x[0, 500::1999] = -1.4
    return x.astype(np.float32)


SOUNDS = {
    "speech": lambda rate: 8 * spoken(3, rate),
    "noise": lambda rate: noise(-6, 1, rate),
    "between samples": lambda rate: sine(6, 1, rate / 4, rate, phase_deg=45),
    "clicks": clicks,
    "square": lambda rate: np.sign(sine(0, 1, 441.0, rate)).astype(np.float32),
    "stereo": lambda rate: noise(-8, 1, rate, channels=2),
}


@pytest.mark.parametrize("name", SOUNDS)
@pytest.mark.parametrize("rate", [16_000, 44_100, 48_000, 96_000])
@pytest.mark.parametrize(
    "step",
    [Limiter(ceiling_dbtp=-3.0), Limiter(ceiling_dbtp=-1.0, input_gain_db=6, look_ahead_ms=1)],
)
def test_the_ceiling_holds(name, rate, step):
    sound = SOUNDS[name](rate)
    out, _ = limited(sound, step, rate)
    assert out.shape == sound.shape
    assert eightfold_db(out) <= step.ceiling_dbtp + 0.05
    if rate == RATE:
        assert annex_2_db(out) <= step.ceiling_dbtp + 0.05


@pytest.mark.parametrize("block", [1, 100, 4_096])
def test_blocks_do_not_matter(block):
    sound = 6 * spoken(0.5)
    whole, _ = limited(sound, Limiter())
    cut, _ = limited(sound, Limiter(), block=block)
    assert np.array_equal(whole, cut)


def test_what_stays_under_the_ceiling_comes_out_bit_for_bit():
    sound = spoken(3) / 4
    out, processor = limited(sound, Limiter(ceiling_dbtp=-3))
    assert np.array_equal(out, sound)
    assert processor.report()["active_share"] == 0


def test_it_lets_go_again():
    sound = sine(-20, 2)
    sound[0, 1000:1010] = 1.0
    out, _ = limited(sound, Limiter(ceiling_dbtp=-12, release_ms=50))
    assert level_db(out[0, RATE:]) == pytest.approx(level_db(sound[0, RATE:]), abs=0.01)
