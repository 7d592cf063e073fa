"""A passage heard and measured while its chain is being set.

What steps must know of the whole recording (a peak, a voice level, the learned noise) is exact where a
run has settled it. Where a setting has changed since, it is estimated: the figures of the recording as
it came, moved by what the chain has done to the passage so far. So are the levels after
every step.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from zesty_core.chain.recipe import Chain, ChainStep
from zesty_core.chain.tone_in_chain import (
    TonePiece,
    noise_at,
    noise_span,
    shortened,
    spoken_before,
    tone_after,
    tone_before,
)
from zesty_core.foundation.marks import marks_of
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import Block, SignalInfo, Source, Span, joined
from zesty_core.foundation.units import db_to_factor
from zesty_core.live.estimates import Apart, corrected, moved, moved_spectrum, tone_level
from zesty_core.live.passage import Arrived, Passage, PassageCache, render_passage
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.loudness import LoudnessMeter
from zesty_core.measures.report import LEVEL_PARTS, Levels, Measures
from zesty_core.measures.stream import measure
from zesty_core.runtime.denormals import flushing_to_zero
from zesty_core.steps.base import Facts, Step, StepInput, process_blocks

#: What the loudness step looks at; it asks for everything only to know what comes out.
_FOR_LOUDNESS = frozenset({"peak", "loudness"})
_LEVELS = LEVEL_PARTS | {"peak"}
_MOVED = ("sample_peak_dbfs", "true_peak_dbtp", "rms_dbfs", "integrated_lufs", "voice_level_dbfs")
_MOST_KEPT = 160
#: So much room tone tells its level.
_SAMPLE_S = 1.5


@dataclass(frozen=True)
class LivePoint:
    """One step on the passage: levels of the whole after it, what it did here, the room tone that
    arrives and leaves, and whether it knows the whole or has estimated it."""

    type: str
    levels: Levels
    report: dict[str, Any]
    tone_before: Block | None
    tone_after: Block | None
    is_settled: bool


@dataclass(frozen=True)
class Anchor:
    """A chain that was settled on the whole recording: its facts, and the levels after each step.

    How far the estimate misses it corrects the estimate for a chain that differs from it.
    """

    chain: Chain
    facts: Mapping[int, Facts]
    levels: Sequence[Levels]

    def place_of(self, chain: Chain, index: int) -> int | None:
        """Place in the anchor of the step that ``chain`` has at ``index``: the same of its kind."""
        kind = chain[index].step.type
        nth = sum(entry.step.type == kind for entry in chain[:index])
        places = [i for i, entry in enumerate(self.chain) if entry.step.type == kind]
        return places[nth] if nth < len(places) else None


class Heard:
    """A passage through a chain: the sound at once, its figures on demand."""

    def __init__(
        self,
        live: LiveChain,
        chain: Chain,
        passage: Passage,
        walk: _Walk,
        missed: _Missed | None,
    ) -> None:
        self.passage = passage
        self._live, self._chain, self._walk, self._missed = live, chain, walk, missed

    @property
    def is_settled(self) -> bool:
        """Whether it sounds exactly as the same span of the whole run will."""
        return not any(self._walk.was_estimated.values())

    @cached_property
    def points(self) -> tuple[LivePoint, ...]:
        """One entry for each step of the chain."""
        with flushing_to_zero():
            return tuple(self._points())

    def _points(self) -> Iterator[LivePoint]:
        live, walk = self._live, self._walk
        as_recorded = told = live.levels_as_recorded()
        plain = tone = tone_after(live.sample, (), live.info)
        first = last = live.measured(self.passage.before, f"{self.passage.span}", _LEVELS)
        apart = Apart()
        for index, entry in enumerate(self._chain):
            stage = self.passage.stages.get(index)
            if stage is None:
                yield LivePoint(entry.step.type, told, {}, tone, tone, True)
                continue
            now, after = live.measured(stage.sound, stage.key, _LEVELS), walk.sample_after(index)
            levels = Levels(
                moved(as_recorded.true_peak_dbtp, first.true_peak_dbtp, now.true_peak_dbtp),
                moved(as_recorded.voice_level_dbfs, first.voice_level_dbfs, now.voice_level_dbfs),
                moved(as_recorded.noise_floor_dbfs, tone_level(plain), tone_level(after)),
            )
            apart, last = walk.apart_after(index, apart, last, now), now
            levels = apart.levels(levels)
            told = self._missed.levels(self._chain, index, levels) if self._missed else levels
            settled = not walk.was_estimated[index]
            report = walk.tone_report(index) | stage.report
            yield LivePoint(entry.step.type, told, report, tone, after, settled)
            tone = after


class LiveChain:
    """One recording whose chain is being set. Not for two threads at once."""

    def __init__(
        self,
        source: Source,
        room_tone: RoomTone | None = None,
        measures: Measures | None = None,
    ) -> None:
        self.source, self.info = source, source.info
        self.room_tone = room_tone.checked(source.info) if room_tone else None
        with flushing_to_zero():
            #: Of the whole recording as it came; taken where they are not known.
            self.measures: Measures = measures or measure(source.blocks(), source.info)
        self.tone = tone_before(source, self.room_tone, self.measures)
        self.spoken = spoken_before(source, self.room_tone, self.measures)
        self.sample = [shortened(piece, source.info, _SAMPLE_S) for piece in self.tone[:1]]
        self.cache = PassageCache(most=_MOST_KEPT)
        self._last_missed: tuple[Anchor, Span, _Missed] | None = None

    def hear(
        self,
        chain: Chain,
        span: Span,
        settled: Mapping[int, Facts] | None = None,
        anchor: Anchor | None = None,
    ) -> Heard:
        """The passage, with what is ``settled`` of its steps by their place in the chain; what is
        not is estimated, from an ``anchor`` where there is one.

        Raises :class:`BadInput` for a span that does not fit.
        """
        missed = self._missed_by(anchor, span) if anchor else None
        return self._hear(_Walk(self, chain, span, settled or {}, missed), chain, span, missed)

    def _hear(self, walk: _Walk, chain: Chain, span: Span, missed: _Missed | None) -> Heard:
        passage = render_passage(self.source, chain, walk.facts, span, self.cache)
        return Heard(self, chain, passage, walk, missed)

    def _missed_by(self, anchor: Anchor, span: Span) -> _Missed:
        """How the passage through the anchor's own chain compares with what is known of it."""
        if self._last_missed is None or self._last_missed[:2] != (anchor, span):
            walk = _Walk(self, anchor.chain, span, anchor.facts, None, guesses={})
            heard = self._hear(walk, anchor.chain, span, None)
            self._last_missed = anchor, span, _Missed(anchor, heard, walk.guesses or {})
        return self._last_missed[2]

    def levels_as_recorded(self) -> Levels:
        """Levels of the recording, the noise read where a run reads it."""
        span, _ = noise_span(self.room_tone, self.measures)
        noise = noise_at(self.source, span) if span else self.measures.noise_floor_dbfs
        return replace(self.measures.levels, noise_floor_dbfs=noise)

    def measured(self, sound: Block, key: str, parts: frozenset[str]) -> Measures:
        """Some measures of a passage, taken once for each ``key``."""
        key = f"measures {sorted(parts)} {key}"
        found = self.cache.get(key)
        if found is None:
            meter = FullMeter(SignalInfo(self.info.sample_rate_hz, *sound.shape), parts=parts)
            meter.push(sound)
            found = meter.finish()
            self.cache.keep(key, found)
        return found  # type: ignore[no-any-return]

    def integrated_lufs(self, sound: Block, key: str) -> float | None:
        """Loudness of a passage, taken once for each ``key``."""
        key = f"loudness {key}"
        found = self.cache.get(key)
        if found is None:
            meter = LoudnessMeter(self.info.sample_rate_hz, self.info.channels)
            meter.push(sound)
            found = (meter.integrated_lufs(),)
            self.cache.keep(key, found)
        return found[0]  # type: ignore[no-any-return]


class _Missed:
    """By how much estimates for the anchor's chain, ``guesses``, miss what was settled for it."""

    def __init__(self, anchor: Anchor, heard: Heard, guesses: Mapping[int, Facts]) -> None:
        self._anchor, self._heard, self._guesses = anchor, heard, guesses

    def facts(self, chain: Chain, index: int, facts: Facts) -> Facts:
        """Estimated facts, corrected where they are levels and gains."""
        place = self._anchor.place_of(chain, index)
        if place is None or place not in self._guesses:
            return facts
        shifted: Facts = corrected(facts, self._anchor.facts[place], self._guesses[place])
        return shifted

    def levels(self, chain: Chain, index: int, levels: Levels) -> Levels:
        """Estimated levels, corrected."""
        place = self._anchor.place_of(chain, index)
        if place is None:
            return levels
        known, guessed = self._anchor.levels[place], self._heard.points[place].levels
        return Levels(
            moved(levels.true_peak_dbtp, guessed.true_peak_dbtp, known.true_peak_dbtp),
            moved(levels.voice_level_dbfs, guessed.voice_level_dbfs, known.voice_level_dbfs),
            moved(levels.noise_floor_dbfs, guessed.noise_floor_dbfs, known.noise_floor_dbfs),
        )


@dataclass(frozen=True)
class _Passed:
    """A step the passage has passed, and the room tone that arrived with it; ``key`` stands for all
    that was done to the tone, this step included."""

    step: Step
    facts: Facts
    tone: list[TonePiece]
    key: str


class _Walk:
    """Goes along the chain with the passage and tells each step its facts."""

    def __init__(
        self,
        live: LiveChain,
        chain: Chain,
        span: Span,
        settled: Mapping[int, Facts],
        missed: _Missed | None,
        guesses: dict[int, Facts] | None = None,
    ) -> None:
        self._live, self._info = live, live.info
        #: What would have been estimated for steps that are settled; None when nobody asks.
        self.guesses = guesses
        self._chain, self._missed = chain, missed
        self._before_key = f"{span}"
        self._before: Block | None = None
        #: Room tone on its way: whole as far as steps learn from it, and a little of it for levels.
        self._tone: list[TonePiece] = live.tone
        self._spoken: list[TonePiece] = live.spoken
        self._sample: list[TonePiece] = live.sample
        self._passed: dict[int, _Passed] = {}
        learners = [i for i, e in enumerate(chain) if e.is_active and e.step.needs_room_tone]
        self._last_learner = max(learners, default=-1)
        self._tone_key = ""
        self.settled = settled
        self.was_estimated: dict[int, bool] = {}
        self._apart = Apart()
        #: The last step that does not do the same at all times, and what arrived at it.
        self._uneven: tuple[int, Arrived] | None = None

    def facts(self, index: int, entry: ChainStep, arrived: Arrived) -> Facts:
        step = entry.step
        if self._before is None:
            # The first step hears the passage as it was recorded.
            self._before = arrived.passage
        if self._uneven:
            at, then = self._uneven
            before, after = (
                self._live.measured(a.passage, a.key, _LEVELS) for a in (then, arrived)
            )
            self._apart, self._uneven = self.apart_after(at, self._apart, before, after), None
        facts = self.settled.get(index)
        self.was_estimated[index] = facts is None and bool(
            step.measures_wanted or step.needs_room_tone
        )
        if self.guesses is not None:
            self.guesses[index] = self._estimated(step, arrived)
        if facts is None:
            facts = self._estimated(step, arrived)
            if self._missed:
                facts = self._missed.facts(self._chain, index, facts)
        self._tone_key += json.dumps([step.type, step.as_params(), facts])
        self._passed[index] = _Passed(step, facts, self._tone, self._tone_key)
        if step.whole_moved_db(facts) is not None:
            self._uneven = index, arrived
        if index < self._last_learner:
            self._tone = self._tone_through(self._tone, self._passed[index], "whole")
            self._spoken = self._tone_through(self._spoken, self._passed[index], "spoken")
        return facts

    def apart_after(self, index: int, apart: Apart, before: Measures, after: Measures) -> Apart:
        """``apart`` with the step at ``index``, which took the passage from ``before`` to ``after``."""
        return apart.passed(self._passed[index].step, self._passed[index].facts, before, after)

    def sample_after(self, index: int) -> Block | None:
        """A little room tone after the step at ``index``; steps are to be asked in their order."""
        self._sample = self._tone_through(self._sample, self._passed[index], "sample")
        return tone_after(self._sample, (), self._info)

    def tone_report(self, index: int) -> dict[str, Any]:
        """What the step at ``index`` did to the room tone it learned from."""
        passed = self._passed[index]
        if not passed.step.needs_room_tone or not passed.tone:
            return {}
        key = f"report {passed.key}"
        report: dict[str, Any] | None = self._live.cache.get(key)
        if report is None:
            tone = tone_after(passed.tone, (), self._info)
            assert tone is not None
            report = passed.step.tone_report(tone, self._info, passed.facts)
            self._live.cache.keep(key, report)
        return report

    def _estimated(self, step: Step, arrived: Arrived) -> Facts:
        key = f"facts {arrived.key}{self._tone_key}{step.type}{step.facts_params}"
        facts: Facts | None = self._live.cache.get(key)
        if facts is None:
            facts = step.facts(self._survey(step, arrived))
            self._live.cache.keep(key, facts)
        return facts

    def _survey(self, step: Step, arrived: Arrived) -> StepInput:
        marks = marks_of(self._live.source)
        step_input = StepInput(self._info, speakers=marks.speakers, repairs=marks.repairs)
        if step.needs_room_tone:
            tone, spoken = (tone_after(p, (), self._info) for p in (self._tone, self._spoken))
            step_input = replace(step_input, room_tone=tone, spoken=spoken)
        if not step.measures_wanted:
            return step_input
        wanted = step.measures_wanted
        parts = (_FOR_LOUDNESS if wanted == FullMeter.OF_RESULTS else wanted) | _LEVELS
        here = self._whole(arrived.passage, arrived.key, parts)
        step_input = replace(step_input, measures=here)
        trial = step.trial(step_input)
        if trial is None:
            return step_input
        tried = joined(process_blocks(trial, [arrived.stretch]), self._info.channels)
        tried = tried[:, arrived.first : arrived.last]
        key = f"{arrived.key} trial {step.as_params()}"
        return replace(step_input, trial=self._whole(tried, key, parts))

    def _whole(self, sound: Block, key: str, parts: frozenset[str]) -> Measures:
        """What the measures of the whole would be where the passage is ``sound``."""
        assert self._before is not None
        whole, now = self._live.measures, self._live.measured(sound, key, parts)
        before = self._live.measured(self._before, self._before_key, parts)
        figures: dict[str, Any] = {
            name: moved(
                moved(getattr(whole, name), getattr(before, name), getattr(now, name)),
                0.0,
                self._apart.of(name),
            )
            for name in _MOVED
        }
        peak_db = (now.sample_peak_dbfs or 0.0) - (before.sample_peak_dbfs or 0.0)
        factor = db_to_factor(peak_db + self._apart.peak_db)
        offsets = zip(whole.dc_offset, before.dc_offset, now.dc_offset, strict=True)
        return replace(
            whole,
            **figures,
            spectrum=moved_spectrum(whole.spectrum, before.spectrum, now.spectrum),
            dc_offset=tuple(w + n - b for w, b, n in offsets),
            sample_extremes=tuple((a * factor, b * factor) for a, b in whole.sample_extremes),
            true_extremes=tuple((a * factor, b * factor) for a, b in whole.true_extremes),
        )

    def _tone_through(self, tone: list[TonePiece], passed: _Passed, name: str) -> list[TonePiece]:
        key = f"tone, {name} {passed.key}"
        kept: list[TonePiece] | None = self._live.cache.get(key)
        if kept is None:
            kept = [
                TonePiece(
                    joined(
                        process_blocks(
                            passed.step.start(
                                self._info, passed.step.facts_from(passed.facts, None)
                            ),
                            [piece.sound],
                        ),
                        self._info.channels,
                    ),
                    piece.lead,
                )
                for piece in tone
            ]
            self._live.cache.keep(key, kept)
        return kept
