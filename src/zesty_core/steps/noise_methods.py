"""The two methods of noise reduction, each as a pass over short-time spectra."""

from __future__ import annotations

import dataclasses
import math
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.noise_model import DriftTracker, LearnedNoise
from zesty_core.dsp.pitch_comb import PitchComb
from zesty_core.dsp.spectral import OVERLAP, Shaping, SpectralProcessor, window_samples
from zesty_core.dsp.voice_filter import (
    CHUNK_FRAMES,
    CONTEXT_FRAMES,
    VoiceFilter,
    loud_power,
)
from zesty_core.dsp.voice_gain import voice_gain
from zesty_core.foundation.signal import SignalInfo
from zesty_core.runtime.kernel import kernel

if TYPE_CHECKING:
    from zesty_core.steps.noise_reduction import NoiseReduction

#: Context of a chunk for statistics: the recursions have forgotten what lies further away.
BEFORE_S, AFTER_S = 0.5, 0.35
#: Context on either side for the voice model; frames are longest at 8 kHz.
MODEL_REACH_S = 2.7


def statistics_pass(
    step: NoiseReduction, info: SignalInfo, noise: LearnedNoise
) -> SpectralProcessor:
    """Gains from the statistics of noise and voice, and what one pitch period shares with the next."""
    rule = _StatisticsRule(step, info.sample_rate_hz, noise)
    return SpectralProcessor(
        info.sample_rate_hz,
        info.channels,
        rule,
        rule.frames_before,
        rule.frames_after,
        PitchComb(info.sample_rate_hz, rule.floor),
    )


def voice_model_pass(
    step: NoiseReduction, info: SignalInfo, noise: LearnedNoise, voice_dbfs: float
) -> SpectralProcessor:
    """The voice as the network and statistics find it, over everything else at its depth."""
    rate = info.sample_rate_hz
    plain = dataclasses.replace(step, smoothing_oct=0.0, release_ms=0.0, passes=1)
    rule = _StatisticsRule(plain, rate, noise)
    context = CONTEXT_FRAMES + 2 * -(-rule.drift_frames // 2)
    return SpectralProcessor(
        rate,
        info.channels,
        rule,
        context,
        context,
        VoiceFilter(rule.floor, loud_power(voice_dbfs, rate), PitchComb(rate, rule.floor)),
        CHUNK_FRAMES,
    )


@kernel
def _smooth_across(gain: NDArray[np.float32], half: NDArray[np.int64]) -> None:
    """Mean of each gain with ``half[k]`` neighbours on either side, in place."""
    bins = gain.shape[1]
    sums = np.empty(bins + 1)
    first = bins
    for k in range(bins - 1, -1, -1):
        first = k if half[k] > 0 else first
    for t in range(gain.shape[0]):
        row = gain[t]
        total = 0.0
        sums[0] = 0.0
        for k in range(bins):
            total += row[k]
            sums[k + 1] = total
        for k in range(first, bins):
            low = max(0, k - half[k])
            high = min(bins, k + half[k] + 1)
            row[k] = (sums[high] - sums[low]) / (high - low)


@kernel
def _release(gain: NDArray[np.float32], keep: float) -> None:
    """Let a gain fall no faster than by ``keep`` per frame, in place."""
    keep32 = np.float32(keep)
    for t in range(1, gain.shape[0]):
        before, now = gain[t - 1], gain[t]
        for k in range(now.shape[0]):
            now[k] = max(before[k] * keep32, now[k])


class _StatisticsRule:
    """Power of the frames in, gains out."""

    def __init__(self, step: NoiseReduction, rate: int, noise: LearnedNoise) -> None:
        window = window_samples(rate)
        self._hop_s = window / OVERLAP / rate
        self._bin_hz = rate / window
        freq_hz = np.arange(len(noise.power), dtype=np.float64) * self._bin_hz
        depth = step.depths_db(freq_hz) / step.passes
        self.floor = (10.0 ** (-depth / 20.0)).astype(np.float32)
        self._noise = noise.power * 10.0 ** (step.margin_db / 10.0)
        self._learned = noise
        side = 2.0 ** (step.smoothing_oct / 2.0) - 1.0
        self._half = np.round(np.arange(len(noise.power)) * side).astype(np.int64)
        release_s = step.release_ms / 1000.0
        self._keep = math.exp(-self._hop_s / release_s) if release_s > 0 else 0.0
        self._tracker = DriftTracker(self._hop_s, self._bin_hz) if step.track_noise else None
        reach = self.drift_frames = self._tracker.reach_frames if self._tracker else 0
        # An even number: frames are looked at in pairs, which must fall alike in every chunk.
        self.frames_before = 2 * round(max(reach, BEFORE_S / self._hop_s) / 2)
        self.frames_after = max(reach, round(AFTER_S / self._hop_s))

    def __call__(self, power: NDArray[np.float32], first_frame: int) -> Shaping:
        noise: NDArray[np.floating] = self._noise
        if self._tracker:
            snr = np.divide(power, noise.astype(np.float32), dtype=np.float32)
            noise = noise * self._tracker.scale(snr, self._learned.lowest)
        scale, swell = self._learned.presence_threshold_scale, self._learned.swell
        gain = voice_gain(power, noise, scale, swell, self.floor, self._hop_s, self._bin_hz)
        if self._half.any():
            _smooth_across(gain, self._half)
        if self._keep > 0.0:
            _release(gain, self._keep)
        return Shaping(gain, noise)
