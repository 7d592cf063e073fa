"""Noise reduction by a learned sample of the room.

The noise is learned from room tone as it arrives at this step, with how much the room comes and goes
by itself: where it does, less is taken for a voice (``dsp.presence``). Where no long pause was found,
noise is estimated from under the words too (``dsp.noise_under_voice``).

By statistics, the voice's gain is estimated by ``dsp.voice_gain``, and between the partials of a vowel
noise goes by the correlation of one pitch period with the next (``dsp.pitch_comb``); sources there. By
the voice model, a network finds the voice (``dsp.voice_network``). Either way the rest goes down by the
depth, so that a natural bed remains.

With digital silence for room tone, or where nothing was learned, the sound passes unchanged and the
report says so.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from zesty_core.dsp.noise_model import DriftTracker, LearnedNoise, learn_noise
from zesty_core.dsp.spectral import OVERLAP, SpectralProcessor, window_samples
from zesty_core.foundation.room_tone import LEAST_S
from zesty_core.foundation.settings import Declared, choice, number, records, switch
from zesty_core.foundation.signal import Block, SignalInfo
from zesty_core.measures.noise_floor_shift import is_heard_there, noise_floor_shift_words
from zesty_core.measures.spectrum_points import curve_of, curve_of_sound
from zesty_core.steps.base import Facts, GainProcessor, Guide, Step, StepInput
from zesty_core.steps.noise_figures import room_tone_figures, spectrum_of_frames
from zesty_core.steps.noise_methods import (
    AFTER_S,
    BEFORE_S,
    MODEL_REACH_S,
    statistics_pass,
    voice_model_pass,
)
from zesty_core.steps.pictures import PicturedPassage, rounded
from zesty_core.steps.step_advice import Remark, StepContext, Trait

_NOTHING_LEARNED = "left as it is: no room tone was found or marked"
_SILENT_TONE = "left as it is: the room tone is digital silence"
_UNDER_VOICE = (
    "nobody pauses, so the noise was learned from under the words; room tone teaches more"
)
_NO_VOICE = "nobody speaks, so statistics took the place of the voice model"


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


#: Deeper by each method, or more uneven than the room, is heard (common practice, no source).
_DEEP_DB, _MOST_WARBLE = {"statistics": 20.0, "voice_model": 30.0}, 1.5


@dataclass(frozen=True, kw_only=True)
class NoiseReduction(Step):
    """Turns noise down by what was learned from the room."""

    type = "noise_reduction"
    label = "Noise reduction"
    summary = "turns noise down"
    guide = Guide(
        "Turns down what the room always does: hiss, fans, hum. It learns the room from a stretch "
        "in which nobody speaks, and leaves some of it as a natural bed.",
        (
            "25 dB for noisy rooms; 12 dB where the room is quiet already.",
            "Half a second to three seconds of room tone; several spans may be given.",
            "A restless room (water, a fire, a machine): a longer sample, with its loud moments.",
            "Nothing marked: it learns from the longest pauses, or from gaps between the words. A "
            "second marked by hand is surer.",
            "A fan that cycles: follow drifting noise.",
        ),
        "Barking, traffic and other people cannot be learned; the voice model turns knocks between "
        "words down. A warble ratio above 1.5 in the report says that single tones are left standing: "
        "less depth, or two passes.",
    )
    traits = frozenset({Trait.LEARNS_NOISE})
    starters: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "Quiet room": {"depth_db": 12.0},
        "Fan and street": {"depth_db": 18.0},
        "Rescue": {"depth_db": 25.0, "margin_db": 1.0},
        "Fast": {"method": "statistics", "depth_db": 18.0},
        "A room that changes": {"depth_db": 18.0, "track_noise": True},
    }  # fmt: skip

    depth_db: float = number(
        "Depth",
        unit="dB",
        default=25.0,
        low=0,
        high=40,
        usual=(10, 25),
        increment=0.5,
        help="How far the noise is turned down. By statistics more than 20 dB begins to be heard.",
    )
    method: str = choice(
        "Method",
        default="voice_model",
        choices=("voice_model", "statistics"),
        words={"voice_model": "Voice model", "statistics": "Statistics"},
        help="The voice model is a network trained on voices: it removes more noise, sudden noises "
        "between words too. Statistics learn the noise and estimate the voice; they are faster.",
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
        return 360.0 if self._by_model else 85.0 * self.passes

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
        return self._reach_s(BEFORE_S, 0.1)

    @property
    def look_ahead_s(self) -> float:
        """As far as the gains look ahead, for each pass."""
        return self._reach_s(AFTER_S, 0.05)

    def _reach_s(self, context_s: float, frames_s: float) -> float:
        drift_s = DriftTracker.REACH_S if self.track_noise else 0.0
        statistics_s = self.passes * (
            context_s + frames_s + (drift_s + context_s if self.track_noise else 0.0)
        )
        # Where nobody speaks, statistics take the voice model's place.
        return max(statistics_s, MODEL_REACH_S + drift_s) if self._by_model else statistics_s

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
        notes = [_UNDER_VOICE] if tone is None else []
        if self._by_model and voice_dbfs is None:
            notes.append(_NO_VOICE)
        return facts | {"note": "; ".join(notes)} if notes else facts

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
        tone, voice_dbfs = centred, facts.get("voice_level_dbfs")
        for noise in facts["noise"]:
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
        if voice_dbfs is None:
            return statistics_pass(self, info, noise)
        return voice_model_pass(self, info, noise, voice_dbfs)

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
        # What the voice model leaves standing in a pause are sounds, not single tones of the noise.
        warbles = not self._by_model and warble is not None and warble > _MOST_WARBLE
        deep_db = _DEEP_DB[self.method]
        if depth <= deep_db and not warbles:
            return
        why = (
            f"what it leaves of the room warbles ({warble:.1f} times as uneven as the room itself)"
            if warbles
            else f"beyond {deep_db:g} dB it begins to be heard in the voice"
        )
        text = f"Noise reduction is {depth:g} dB deep: {why}."
        if self.depth_curve:
            yield Remark("deep_noise_reduction", text)
            return
        less = min(deep_db, max(6.0, self.depth_db - 6.0))
        yield Remark("deep_noise_reduction", text, f"Set {less:g} dB", {"depth_db": less})

    def _sentence(self) -> str:
        """In plain words."""
        deepest = max([p.depth_db for p in self.depth_curve] or [self.depth_db])
        if self._by_model:
            return (
                "Keeps what a network trained on voices takes for voice, and turns everything else "
                f"down by up to {deepest:g} dB."
            )
        times = f" in {self.passes} light passes" if self.passes > 1 else ""
        follow = ", following slow changes" if self.track_noise else ""
        return f"Turns steady noise down by up to {deepest:g} dB{times}{follow}."


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
