"""What there is to see of one step at work on a passage: spectra, levels, curves, its work over time.

Plain JSON values; levels in dBFS or dB, times in seconds from the passage's start.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.crossover import Crossover
from zesty_core.dsp.noise_model import LearnedNoise
from zesty_core.dsp.spectral import hann, window_samples
from zesty_core.dsp.transforms import spectra_of
from zesty_core.measure.level_histogram import LOWEST_DBFS, LevelHistogram, levels_db
from zesty_core.measure.spectrum import Spectrum, SpectrumMeter
from zesty_core.measure.spectrum_points import (
    curve_frequencies,
    curve_of,
    curve_of_sound,
)
from zesty_core.measure.stands_out import stands_out
from zesty_core.signal import Block, SignalInfo, joined
from zesty_core.steps.ambience import Ambience
from zesty_core.steps.base import Facts, Step, through
from zesty_core.steps.compressor import Compressor
from zesty_core.steps.de_esser import DeEsser
from zesty_core.steps.eq import Eq
from zesty_core.steps.limiter import Limiter
from zesty_core.steps.multiband import Multiband
from zesty_core.steps.noise_reduction import NoiseReduction
from zesty_core.units import db_to_factor

_COLUMNS = 300
_PARTS_OF_BIN = 16
_QUIET_DBFS = -75.0
_CURVE_DBFS = np.arange(-80.0, 0.1, 1.0)


def step_picture(
    step: Step,
    facts: Facts,
    before: Block,
    after: Block,
    tones: tuple[Block | None, Block | None],
    sample_rate_hz: int,
) -> dict[str, Any]:
    """Pictures of ``step`` between ``before`` and ``after`` (channels, samples).

    ``tones``: room tone as it arrives and as it leaves, where there is some.
    """
    freqs_hz = curve_frequencies(sample_rate_hz)
    down = _turned_down(step, facts, before, after, sample_rate_hz)
    picture: dict[str, Any] = {
        "spectrum": {
            "freqs_hz": _rounded(freqs_hz),
            "before": curve_of_sound(before, sample_rate_hz, freqs_hz),
            "after": curve_of_sound(after, sample_rate_hz, freqs_hz),
        },
        "levels": {
            "lowest_dbfs": LOWEST_DBFS,
            "before": _histogram(before, sample_rate_hz),
            "after": _histogram(after, sample_rate_hz),
        },
        "work": [_work(before, down, peaks=isinstance(step, Limiter))],
    }
    curve = step.curve_dbfs(facts, _CURVE_DBFS)
    if curve is not None:
        picture["curve"] = {"in_dbfs": _rounded(_CURVE_DBFS), "out_dbfs": _rounded(curve)}
    if isinstance(step, Eq):
        picture["stands_out"] = _standing_out(before, sample_rate_hz)
        picture["response_db"] = _rounded(step.response_db(freqs_hz, sample_rate_hz))
    if isinstance(step, NoiseReduction):
        picture["depth_db"] = _rounded(step.depths_db(freqs_hz))
        for name, tone in zip(("tone_before", "tone_after"), tones, strict=True):
            if tone is not None:
                picture["spectrum"][name] = curve_of_sound(tone, sample_rate_hz, freqs_hz)
        if tones[0] is None and facts["noise"]:
            learned = _of_frames(LearnedNoise.of_facts(facts["noise"][0]).power, sample_rate_hz)
            picture["spectrum"]["noise_learned"] = curve_of(learned, freqs_hz)
    if isinstance(step, DeEsser):
        picture["work"] = [_band_work(before, after, sample_rate_hz, step.low_hz, step.high_hz)]
    if isinstance(step, Multiband):
        picture |= _of_bands(step, facts, before, down, sample_rate_hz)
    if isinstance(step, Ambience):
        picture["decay"] = _decay(step, sample_rate_hz, before.shape[0])
    return picture


def _of_frames(power: NDArray[np.float64], sample_rate_hz: int) -> Spectrum:
    """Mean square per bin from the power of frames under a Hann window; the bins of frames are wide
    and are parted, so that its curve compares with those of other spectra."""
    window = window_samples(sample_rate_hz)
    scale = 2.0 / (window * float(np.square(hann(window)).sum()) * _PARTS_OF_BIN)
    # A bin reaches half its width to either side of its frequency.
    parted = np.repeat(power * scale, _PARTS_OF_BIN)[_PARTS_OF_BIN // 2 :]
    return Spectrum(sample_rate_hz / window / _PARTS_OF_BIN, parted)


def _turned_down(step: Step, facts: Facts, before: Block, after: Block, rate: int) -> Block:
    """What came out, less what the step turns up itself: make-up, and the gain before a limiter."""
    if isinstance(step, Limiter):
        return after * np.float32(db_to_factor(-step.input_gain_db))
    plain = {"makeup_db": 0.0}
    if isinstance(step, Compressor) and facts.get("makeup_db"):
        facts = facts | plain
    elif isinstance(step, Multiband) and any(f.get("makeup_db") for f in facts.get("bands", ())):
        facts = facts | {"bands": [band | plain for band in facts["bands"]]}
    else:
        return after
    processor = step.start(SignalInfo(rate, *before.shape), facts)
    return joined(through(processor, [before]), len(before))


def _standing_out(sound: Block, rate: int) -> list[dict[str, float]]:
    meter = SpectrumMeter(SignalInfo(rate, *sound.shape))
    meter.push(sound)
    spectrum = meter.finish()
    return [one.as_json() for one in stands_out(spectrum)] if spectrum else []


def _histogram(sound: Block, rate: int) -> list[float]:
    counted = LevelHistogram(rate)
    counted.push(sound)
    return counted.shares()


def _work(before: Block, after: Block, peaks: bool = False) -> list[float | None]:
    """Change of level in each of some hundred stretches; None where it was too quiet to tell."""
    width = max(1, -(-before.shape[1] // _COLUMNS))
    if peaks:
        was, now = _peaks_db(before, width), _peaks_db(after, width)
    else:
        was, now = levels_db(before, width), levels_db(after, width)
    return [
        None if a < _QUIET_DBFS else round(float(b - a), 2) for a, b in zip(was, now, strict=True)
    ]


def _peaks_db(sound: Block, width: int) -> NDArray[np.float64]:
    whole = sound.shape[1] // width
    cut = np.abs(sound[:, : whole * width]).reshape(len(sound), whole, width)
    return np.asarray(20.0 * np.log10(np.maximum(cut.max(axis=(0, 2)), 1e-7)), np.float64)


def _band_work(
    before: Block, after: Block, rate: int, low_hz: float, high_hz: float
) -> list[float | None]:
    """Change of level within a band, over time."""
    width = max(256, -(-before.shape[1] // _COLUMNS))
    was, now = (_band_levels_db(s, rate, width, low_hz, high_hz) for s in (before, after))
    return [
        None if a < _QUIET_DBFS else round(float(b - a), 2) for a, b in zip(was, now, strict=True)
    ]


def _band_levels_db(
    sound: Block, rate: int, width: int, low_hz: float, high_hz: float
) -> NDArray[np.float64]:
    whole = sound.shape[1] // width
    cut = sound[:, : whole * width].reshape(len(sound), whole, width) * hann(width)
    power = np.square(np.abs(spectra_of(cut))).sum(axis=0)
    low, high = (round(f * width / rate) for f in (low_hz, high_hz))
    band = power[:, max(1, low) : max(low + 1, high)].sum(axis=1)
    scale = 2.0 / (width * float(np.square(hann(width)).sum()) * len(sound))
    return np.asarray(10.0 * np.log10(np.maximum(band * scale, 1e-15)))


def _of_bands(
    step: Multiband, facts: Facts, before: Block, after: Block, rate: int
) -> dict[str, Any]:
    """Work and curve of each band."""
    if facts.get("idle"):
        return {}
    edges = [f for f in step.crossovers_hz if f < 0.45 * rate]

    def bands(sound: Block) -> list[Block]:
        return Crossover(edges, rate, len(sound))(sound)

    # The step turned the phase, which moves what happens in a band by milliseconds and is no work.
    was, now = bands(np.asarray(sum(bands(before)))), bands(after)
    curves = [
        band.curve_dbfs(fact, _CURVE_DBFS)
        for band, fact in zip(step.bands, facts["bands"], strict=False)
    ]
    return {
        "work": [_work(a, b) for a, b in zip(was, now, strict=True)],
        "band_levels": [_histogram(band, rate) for band in was],
        "curves": [
            {"in_dbfs": _rounded(_CURVE_DBFS), "out_dbfs": _rounded(curve)}
            for curve in curves
            if curve is not None
        ],
    }


def _decay(step: Ambience, rate: int, channels: int) -> dict[str, Any]:
    """How a click rings on: level in hundredths of a second."""
    info = SignalInfo(rate, channels, round((step.decay_s + 0.2) * rate))
    click = np.zeros((channels, info.length_samples), np.float32)
    click[:, 0] = 1.0
    processor = step.start(info, {})
    rung = processor.push(click)
    rung = np.concatenate([rung, processor.finish()], axis=1)
    rung[:, 0] = 0.0
    levels = levels_db(rung, max(1, rate // 100))
    return {"bin_s": 0.01, "levels_db": _rounded(levels - levels.max())}


def _rounded(values: NDArray[np.floating[Any]], decimals: int = 2) -> list[Any]:
    return [round(float(v), decimals) for v in values]
