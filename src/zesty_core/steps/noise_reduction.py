"""Noise reduction by a learned sample of the room.

The noise is learned from room tone as it arrives at this step; the voice's gain is estimated by
``dsp.voice_gain`` and never falls below the chosen depth, so that a natural bed remains. Between the
partials of a vowel noise goes by the likeness of one pitch period to the next (``dsp.pitch_comb``).
Sources there. How much the room comes and goes by itself is learned with it: where it does, more is
asked of what is to be taken for a voice (``dsp.presence``). Where no long pause was found, noise is
estimated from under the words too (``dsp.noise_under_voice``). With digital silence for room tone, or
where nobody speaks, the sound passes unchanged and the report says so.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.noise_model import DriftTracker, LearnedNoise, learn_noise
from zesty_core.dsp.pitch_comb import PitchComb
from zesty_core.dsp.spectral import OVERLAP, Shaping, SpectralProcessor, window_samples
from zesty_core.dsp.voice_filter import (
    CHUNK_FRAMES,
    CONTEXT_FRAMES,
    NoiseRule,
    VoiceFilter,
    loud_power,
)
from zesty_core.dsp.voice_gain import voice_gain
from zesty_core.foundation.room_tone import LEAST_S
from zesty_core.foundation.settings import Declared, choice, number, records, switch
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.measures.noise_floor_shift import is_heard_there, noise_floor_shift_words
from zesty_core.measures.spectrum_points import curve_of, curve_of_sound
from zesty_core.runtime.kernel import kernel
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput
from zesty_core.steps.noise_figures import room_tone_figures, spectrum_of_frames
from zesty_core.steps.pictures import PicturedPassage, rounded
from zesty_core.steps.step_advice import Remark, StepContext, Trait

_NOTHING_LEARNED = "left as it is: no room tone was found or marked"
_SILENT_TONE = "left as it is: the room tone is digital silence"
_UNDER_VOICE = (
    "nobody pauses, so the noise was learned from under the words; room tone teaches more"
)
_NO_VOICE = "nobody speaks, so statistics took the place of the voice model"
#: Context that the voice model needs on either side.
_MODEL_REACH_S = 2.6
#: Context of a chunk: the recursions have forgotten what lies further away.
_BEFORE_S, _AFTER_S = 0.5, 0.35


@dataclass(frozen=True, kw_only=True)
class DepthPoint(Declared):
    """A point of the depth curve."""

    freq_hz: float = number(
        "Frequency",
        unit="Hz",
        default=1000.0,
        low=10,
        high=96_000,
        scale="log",
        increment=1,
        help="Where this depth holds.",
    )
    depth_db: float = number(
        "Depth",
        unit="dB",
        default=12.0,
        low=0,
        high=40,
        help="How far noise is turned down there; between points it is interpolated.",
    )


#: Deeper, or more uneven than the room by so much, is heard (common practice, no source).
_DEEP_DB, _MOST_WARBLE = 20.0, 1.5


@dataclass(frozen=True, kw_only=True)
class NoiseReduction(Step):
    """Turns steady noise down by what was learned from the room."""

    type = "noise_reduction"
    label = "Noise reduction"
    summary = "turns steady noise down"
    guide = Guide(
        "Turns down what the room always does: hiss, fans, hum. It learns the room from a stretch "
        "in which nobody speaks, and leaves some of it as a natural bed.",
        (
            "20 dB for noisy rooms; 12 dB where the room is quiet already.",
            "Half a second to three seconds of room tone; several spans may be given.",
            "A restless room (water, a fire, a machine): a longer sample, with its loud moments.",
            "Nothing marked: it learns from the longest pauses, or from gaps between the words. A "
            "second marked by hand is surer.",
            "A fan that cycles: follow drifting noise.",
        ),
        "Barking, traffic and other people cannot be learned. A warble ratio above 1.5 in the report "
        "says that single tones are left standing: less depth, or two passes.",
    )
    traits = frozenset({Trait.LEARNS_NOISE})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Quiet room": {"depth_db": 12.0},
        "Fan and street": {"depth_db": 18.0},
        "Rescue": {"depth_db": 25.0, "margin_db": 1.0},
        "Voice model": {"method": "voice_model", "depth_db": 25.0},
        "A room that changes": {"depth_db": 18.0, "track_noise": True},
    }  # fmt: skip

    depth_db: float = number(
        "Depth",
        unit="dB",
        default=20.0,
        low=0,
        high=40,
        usual=(10, 20),
        increment=0.5,
        help="How far the noise is turned down. More than 20 dB begins to be heard.",
    )
    method: str = choice(
        "Method",
        default="statistics",
        choices=("statistics", "voice_model"),
        words={"statistics": "Statistics", "voice_model": "Voice model"},
        help="Statistics know the noise and guess the voice. The voice model was trained to know a "
        "voice: it takes more noise away, sudden noises too, and needs about five times as long.",
    )
    margin_db: float = number(
        "Margin",
        unit="dB",
        default=0.0,
        low=-6,
        high=12,
        usual=(0, 3),
        increment=0.5,
        help="Takes the noise for so much louder than learned: steadier pauses, more voice lost.",
    )
    smoothing_oct: float = number(
        "Smoothing",
        unit="oct",
        default=0.0,
        low=0,
        high=2,
        usual=(0, 0.2),
        increment=0.01,
        help="Evens the gain across frequency against warbling. Statistics only.",
    )
    release_ms: float = number(
        "Release",
        unit="ms",
        default=0.0,
        low=0,
        high=200,
        usual=(0, 60),
        increment=5,
        help="How slowly it closes after a word. Long release sounds like a tin can. Statistics only.",
    )
    passes: int = choice(
        "Passes",
        default=1,
        choices=(1, 2, 3, 4),
        help="Several light passes share the depth; each learns the noise anew. Statistics only.",
    )
    depth_curve: tuple[DepthPoint, ...] = records(
        "Depth curve",
        DepthPoint,
        default=(),
        most=32,
        help="Depth over frequency; replaces the single depth where it has points.",
    )
    track_noise: bool = switch(
        "Follow drifting noise",
        default=False,
        help="Lets the noise move slowly away from what was learned, by up to 9 dB.",
    )

    @property
    def work_ns(self) -> float:
        """Every pass is as long as the first."""
        return 450.0 if self._by_model else 85.0 * self.passes

    @property
    def _by_model(self) -> bool:
        return self.method == "voice_model"

    @property
    def measures_wanted(self) -> frozenset[str]:
        """The voice model is given the voice's level."""
        return frozenset({"speech", "noise"}) if self._by_model else frozenset()

    @property
    def is_neutral(self) -> bool:
        """No depth anywhere."""
        points = [p.depth_db for p in self.depth_curve] or [self.depth_db]
        return max(points) == 0.0

    @property
    def state_decay_s(self) -> float:
        """Context of the gains, for each pass."""
        if self._by_model:
            return _MODEL_REACH_S + (DriftTracker.REACH_S if self.track_noise else 0.0)
        reach = DriftTracker.REACH_S + _BEFORE_S if self.track_noise else 0.0
        return self.passes * (_BEFORE_S + 0.1 + reach)

    @property
    def look_ahead_s(self) -> float:
        """As far as the gains look ahead, for each pass."""
        if self._by_model:
            return _MODEL_REACH_S + (DriftTracker.REACH_S if self.track_noise else 0.0)
        reach = DriftTracker.REACH_S + _AFTER_S if self.track_noise else 0.0
        return self.passes * (_AFTER_S + 0.05 + reach)

    @property
    def needs_room_tone(self) -> bool:
        """The noise is learned from it."""
        return True

    @property
    def facts_params(self) -> dict[str, Any]:
        """The noise is learned alike whatever is done to it; later passes learn what is left."""
        passes = {"passes": 1} if self.passes == 1 else self.as_params()
        return passes | {"method": self.method}

    def depths_db(self, freq_hz: NDArray[np.float64]) -> NDArray[np.float64]:
        """Depth of the whole step at each frequency."""
        if not self.depth_curve:
            return np.full(len(freq_hz), self.depth_db)
        points = sorted((math.log(p.freq_hz), p.depth_db) for p in self.depth_curve)
        x, y = zip(*points, strict=True)
        return np.asarray(np.interp(np.log(np.maximum(freq_hz, 1.0)), x, y), dtype=np.float64)

    def facts(self, step_input: StepInput) -> Facts:
        """The learned noise, once per pass."""
        tone, spoken, rate = step_input.room_tone, step_input.spoken, step_input.info.sample_rate_hz
        if tone is not None and tone.shape[1] < round(LEAST_S * rate):
            return {
                "noise": [],
                "note": f"left as it is: the room tone is shorter than {LEAST_S:g} s",
            }
        learned: list[LearnedNoise] = []
        voice_dbfs = self._voice_level(step_input)
        for _ in range(1 if voice_dbfs is not None else self.passes):
            if learned:
                tone, spoken = (
                    None if sound is None else self._after_pass(sound, rate, learned[-1])
                    for sound in (tone, spoken)
                )
            noise = learn_noise(tone, rate, spoken)
            if noise is None:
                return {"noise": [], "note": _NOTHING_LEARNED if tone is None else _SILENT_TONE}
            learned.append(noise)
        facts: Facts = {"noise": [noise.as_facts() for noise in learned]}
        if voice_dbfs is not None:
            facts["voice_level_dbfs"] = voice_dbfs
        elif self._by_model:
            facts["note"] = _NO_VOICE
        return facts | {"note": _UNDER_VOICE} if tone is None else facts

    def _voice_level(self, step_input: StepInput) -> float | None:
        """What the voice model needs; None for statistics, and where nobody speaks."""
        measures = step_input.measures if self._by_model else None
        return measures.voice_level_dbfs if measures else None

    def tone_report(self, room_tone: Block, info: SignalInfo, facts: Facts) -> dict[str, Any]:
        """How far it was turned down, whole and by octave, and whether it warbles."""
        if not facts["noise"]:
            return {}
        rate = info.sample_rate_hz
        # An offset would jump where the tone begins, as it does nowhere in the recording.
        centred = room_tone - room_tone.mean(axis=1, keepdims=True)
        tone = centred
        for noise in facts["noise"]:
            voice_dbfs = facts.get("voice_level_dbfs")
            tone = self._after_pass(tone, rate, LearnedNoise.of_facts(noise), voice_dbfs)
        return room_tone_figures(centred, tone, rate)

    def start(self, info: SignalInfo, facts: Facts) -> NoiseReductionProcessor | GainProcessor:
        """New running state."""
        if not facts["noise"]:
            return GainProcessor.idle(info, facts["note"])
        voice_dbfs = facts.get("voice_level_dbfs")
        passes = [
            self._pass(info, LearnedNoise.of_facts(noise), voice_dbfs) for noise in facts["noise"]
        ]
        return NoiseReductionProcessor(passes, facts.get("note"))

    def _after_pass(
        self, tone: Block, rate: int, noise: LearnedNoise, voice_dbfs: float | None = None
    ) -> Block:
        one = self._pass(SignalInfo(rate, *tone.shape), noise, voice_dbfs)
        return np.concatenate([one.push(tone), one.finish()], axis=1)

    def _pass(
        self, info: SignalInfo, noise: LearnedNoise, voice_dbfs: float | None
    ) -> SpectralProcessor:
        if voice_dbfs is not None:
            return self._model_pass(info, noise, voice_dbfs)
        rule = _Rule(self, info.sample_rate_hz, noise)
        return SpectralProcessor(
            info.sample_rate_hz,
            info.channels,
            rule,
            rule.frames_before,
            rule.frames_after,
            PitchComb(info.sample_rate_hz, rule.floor),
        )

    def _model_pass(
        self, info: SignalInfo, noise: LearnedNoise, voice_dbfs: float
    ) -> SpectralProcessor:
        rate = info.sample_rate_hz
        window = window_samples(rate)
        bin_hz = rate / window
        depths_db = self.depths_db(np.arange(len(noise.power), dtype=np.float64) * bin_hz)
        tracker = DriftTracker(window / OVERLAP / rate, bin_hz) if self.track_noise else None
        context = CONTEXT_FRAMES + (2 * -(-tracker.reach_frames // 2) if tracker else 0)
        return SpectralProcessor(
            rate,
            info.channels,
            NoiseRule(noise.power * 10.0 ** (self.margin_db / 10.0), noise.lowest, tracker),
            context,
            context,
            VoiceFilter(
                (10.0 ** (-depths_db / 20.0)).astype(np.float32), loud_power(voice_dbfs, rate)
            ),
            CHUNK_FRAMES,
        )

    def frame_samples(self, info: SignalInfo) -> int:
        """Frames are looked at in pairs."""
        return 2 * window_samples(info.sample_rate_hz) // OVERLAP

    @classmethod
    def warm_up_cases(cls) -> tuple[NoiseReduction, ...]:
        """With everything that can be switched on."""
        return (cls(smoothing_oct=0.3, track_noise=True), cls(method="voice_model"))

    def picture(self, passage: PicturedPassage) -> dict[str, Any]:
        """Depth over frequency, and the noise: as room tone in and out, or as learned."""
        rate, freqs_hz = passage.sample_rate_hz, passage.freqs_hz
        picture = super().picture(passage)
        picture["depth_db"] = rounded(self.depths_db(freqs_hz))
        for name in ("tone_before", "tone_after"):
            tone = getattr(passage, name)
            if tone is not None:
                picture["spectrum"][name] = curve_of_sound(tone, rate, freqs_hz)
        if passage.tone_before is None and passage.facts.get("noise"):
            learned = LearnedNoise.of_facts(passage.facts["noise"][0]).power
            picture["spectrum"]["noise_learned"] = curve_of(
                spectrum_of_frames(learned, rate), freqs_hz
            )
        return picture

    def remarks(self, context: StepContext) -> Iterator[Remark]:
        """Deeper than is sound; a room that gets louder and is not followed."""
        yield from self._left_behind(context)
        yield from self._too_deep(context.report)

    def _left_behind(self, context: StepContext) -> Iterator[Remark]:
        louder, recorded = context.noise_floor_shift, context.recorded
        voice_dbfs, floor_dbfs = recorded.voice_level_dbfs, recorded.noise_floor_dbfs
        if louder is None or self.track_noise or voice_dbfs is None or floor_dbfs is None:
            return
        if is_heard_there(louder, voice_dbfs - floor_dbfs):
            yield Remark(
                "left_behind",
                f"{noise_floor_shift_words(louder)}. Noise reduction knows one of the two and "
                "takes little from the other.",
                "Let it follow",
                {"track_noise": True},
                (louder.span.start_s,),
            )

    def _too_deep(self, report: Mapping[str, Any]) -> Iterator[Remark]:
        depth = max([p.depth_db for p in self.depth_curve] or [self.depth_db])
        warble = report.get("warble")
        warbles = warble is not None and warble > _MOST_WARBLE
        if depth <= _DEEP_DB and not warbles:
            return
        why = (
            f"what it leaves of the room warbles ({warble:.1f} times as uneven as the room itself)"
            if warbles
            else "beyond 20 dB it begins to be heard in the voice"
        )
        text = f"Noise reduction is {depth:g} dB deep: {why}."
        if self.depth_curve:
            yield Remark("deep_noise_reduction", text)
            return
        less = min(_DEEP_DB, max(6.0, self.depth_db - 6.0))
        yield Remark("deep_noise_reduction", text, f"Set {less:g} dB", {"depth_db": less})

    def _sentence(self) -> str:
        """In plain words."""
        deepest = max([p.depth_db for p in self.depth_curve] or [self.depth_db])
        if self._by_model:
            return (
                "Keeps the voice as a trained model finds it, and turns everything else down by up to "
                f"{deepest:g} dB."
            )
        times = f" in {self.passes} light passes" if self.passes > 1 else ""
        follow = ", following slow changes" if self.track_noise else ""
        return f"Turns steady noise down by up to {deepest:g} dB{times}{follow}."


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


class _Rule:
    """Power of the frames in, gains out: one pass of noise reduction."""

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
        reach = self._tracker.reach_frames if self._tracker else 0
        # An even number: frames are looked at in pairs, which must fall alike in every chunk.
        self.frames_before = 2 * round(max(reach, _BEFORE_S / self._hop_s) / 2)
        self.frames_after = max(reach, round(_AFTER_S / self._hop_s))

    def __call__(self, power: NDArray[np.float32], first_frame: int) -> Shaping:
        noise: NDArray[np.floating] = self._noise
        if self._tracker:
            snr = np.divide(power, noise.astype(np.float32), dtype=np.float32)
            noise = noise * self._tracker.scale(snr, self._learned.lowest)
        presence_threshold_scale, swell = (
            self._learned.presence_threshold_scale,
            self._learned.swell,
        )
        gain = voice_gain(
            power, noise, presence_threshold_scale, swell, self.floor, self._hop_s, self._bin_hz
        )
        if self._half.any():
            _smooth_across(gain, self._half)
        if self._keep > 0.0:
            _release(gain, self._keep)
        return Shaping(gain, noise)


class NoiseReductionProcessor:
    """The passes on one signal."""

    def __init__(self, passes: list[SpectralProcessor], note: str | None) -> None:
        self._passes, self._note = passes, note
        self._before = self._after = 0.0

    def push(self, block: Block) -> Block:
        """Take a block, give what is ready."""
        self._before += float(np.vdot(block, block))
        for one in self._passes:
            block = one.push(block)
        self._after += float(np.vdot(block, block))
        return block

    def finish(self) -> Block:
        """Give the rest."""
        pieces: list[Block] = []
        for one in self._passes:
            pieces = [one.push(p) for p in pieces] + [one.finish()]
        rest = np.concatenate(pieces, axis=1)
        self._after += float(np.vdot(rest, rest))
        return rest

    def report(self) -> dict[str, Any]:
        """Share of all energy that was taken, in dB."""
        told = {"note": self._note} if self._note else {}
        if self._after <= 0.0 or self._before <= 0.0:
            return told
        change_db = 10.0 * math.log10(self._after / self._before)
        return told | {"energy_change_db": round(change_db, 2)}
