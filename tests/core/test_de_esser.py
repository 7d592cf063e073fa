"""De-esser: only the band, only when it is sharp, never more than allowed."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import butter, freqz, sosfilt

from tests.made_sound import RATE, level_db, noise, sine, spoken
from zesty_core.chain.recipe import ChainStep
from zesty_core.chain.runner import run_chain
from zesty_core.dsp.linear_phase import band_pass
from zesty_core.foundation.errors import BadSetting
from zesty_core.foundation.signal import ArraySource, SignalInfo
from zesty_core.steps.de_esser import DeEsser


def softened(sound, **settings):
    step = DeEsser(follow_voice=False, **settings)
    processor = step.start(SignalInfo(RATE, len(sound), 0), {"reference_db": 0.0})
    out = np.concatenate([processor.push(sound), processor.finish()], axis=1)
    return out, processor.report()


@pytest.mark.parametrize(("freq_hz", "passes"), [(3000, 0), (3700, 0), (7070, 1), (11_800, 0)])
def test_the_band_is_flat_inside_and_gone_outside(freq_hz, passes):
    """Response by an independent routine (SciPy's freqz)."""
    _, response = freqz(band_pass(5000, 10_000, RATE), worN=[freq_hz], fs=RATE)
    assert abs(response[0]) == pytest.approx(passes, abs=0.002)


@pytest.mark.parametrize(
    ("level", "threshold", "most", "reduction"),
    [(-20, -10, 6, 0), (-20, -27.01, 6, 4), (-20, -50, 6, 6), (-20, -50, 12, 12)],
)
def test_a_tone_in_the_band_comes_down_to_the_threshold(level, threshold, most, reduction):
    """A sine of peak -20 has a mean square of -23."""
    tone = sine(level, 1, 7070)
    out, report = softened(tone, threshold_db=threshold, max_reduction_db=most)
    assert level_db(tone[0, RATE // 2 :]) - level_db(out[0, RATE // 2 :]) == pytest.approx(
        reduction, abs=0.2
    )
    assert report["max_reduction_db"] == pytest.approx(reduction, abs=0.2)


def test_what_lies_outside_the_band_is_not_touched():
    low, sharp = sine(-20, 1, 500), sine(-20, 1, 7000)
    both, _ = softened(low + sharp, threshold_db=-60, max_reduction_db=20)
    rest = both - low
    middle = slice(RATE // 4, -RATE // 4)
    assert level_db(rest[0, middle]) == pytest.approx(-43, abs=0.2)


def test_silent_band_passes_every_bit():
    sound = spoken(2)
    out, report = softened(sound, threshold_db=0)
    assert np.array_equal(out, sound)
    assert report["active_share"] == 0


@pytest.mark.parametrize("gain_db", [-12.0, 6.0])
def test_followed_it_treats_every_level_alike(gain_db):
    hiss = noise(-35, 8) * (np.sin(np.arange(8 * RATE) / RATE * 9) > 0.9)
    sound = np.concatenate([noise(-75, 2), spoken(8) + hiss.astype(np.float32)], axis=1)
    reports = []
    for factor in (1.0, 10 ** (gain_db / 20)):
        source = ArraySource((sound * factor).astype(np.float32), RATE)
        result = run_chain(source, (ChainStep(DeEsser(threshold_db=3)),), lambda block: None)
        reports.append(result.points[0].report)
    assert reports[0]["max_reduction_db"] > 3
    for name in ("max_reduction_db", "typical_reduction_db"):
        assert reports[0][name] == pytest.approx(reports[1][name], abs=0.11)


@pytest.mark.parametrize(
    ("formant_dbfs", "ess_dbfs", "ess_least_db"), [(-60, -25, 2), (-60, -45, 2), (-24, -26, 0.5)]
)
def test_vowels_are_no_sibilants_however_dull_the_voice(formant_dbfs, ess_dbfs, ess_least_db):
    """What a vowel has just below the band may be louder than all that lies within it."""
    sharp = (np.arange(8 * RATE) % (RATE // 2) < RATE // 16)[None]
    syllables = np.convolve(spoken(8)[0] != 0, np.ones(960) / 960, "same")
    voice = sosfilt(butter(4, 3000, fs=RATE, output="sos"), spoken(8))
    voice += sine(formant_dbfs, 8, 3400) * syllables
    ess = sosfilt(butter(4, [5500, 9000], "bandpass", fs=RATE, output="sos"), noise(ess_dbfs, 8))
    sound = (voice * ~sharp + ess * sharp).astype(np.float32)
    kept = []
    run_chain(ArraySource(sound, RATE), (ChainStep(DeEsser()),), kept.append)
    band = butter(6, [5000, 10_000], "bandpass", fs=RATE, output="sos")
    before, after = (sosfilt(band, x) for x in (sound, np.concatenate(kept, axis=1)))
    # The release lasts 40 ms; what counts as vowels begins later.
    vowel = np.roll(sharp, RATE // 5)
    inside = np.roll(sharp, RATE // 100) & sharp
    assert level_db(before[vowel]) - level_db(after[vowel]) < 0.5
    assert level_db(before[inside]) - level_db(after[inside]) > ess_least_db


def test_edges_must_rise():
    with pytest.raises(BadSetting, match=r"high_hz: must be above low_hz \(6000\), got 5000"):
        DeEsser(low_hz=6000, high_hz=5000)


def test_a_rate_without_such_a_band_is_left_alone():
    source = ArraySource(spoken(2, rate=8000), 8000)
    result = run_chain(source, (ChainStep(DeEsser()),), lambda block: None)
    assert "there is no such band" in result.notes[0]
