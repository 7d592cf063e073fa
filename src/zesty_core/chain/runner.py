"""The runner: a whole recording through a chain, measured before, after and behind every step.

Steps that must know their whole input first end a pass: what came so far goes to a spool on disk and
the next pass starts from there. Memory does not grow with the length of the recording.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from zesty_core.chain.pass_plan import SINK_NS, planned_passes_ns
from zesty_core.chain.recipe import Chain, ChainStep
from zesty_core.chain.tone_in_chain import (
    learned_spans,
    noise_at,
    noise_span,
    spoken_before,
    tone_after,
    tone_before,
)
from zesty_core.foundation.errors import Cancelled
from zesty_core.foundation.marks import marks_of
from zesty_core.foundation.processor import Processor
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import BLOCK_SAMPLES, Block, SignalInfo, Source, Span
from zesty_core.foundation.spool import Spool
from zesty_core.measures.full_meter import FullMeter
from zesty_core.measures.level_meter import LevelMeter
from zesty_core.measures.report import LEVEL_PARTS, Levels, Measures
from zesty_core.runtime.allocator import give_back_gaps
from zesty_core.runtime.denormals import flushing_to_zero
from zesty_core.runtime.pipeline import Pipeline
from zesty_core.steps.base import Facts, Step, StepInput
from zesty_core.steps.registry import STEP_TYPES

#: Takes finished sound, block by block.
Sink = Callable[[Block], object]


@dataclass(frozen=True)
class Progress:
    """How far the work is, 0..1, and what it is at."""

    share: float
    doing: str


@dataclass(frozen=True)
class Point:
    """What one step of the chain did."""

    type: str
    enabled: bool
    levels: Levels
    facts: Facts = field(default_factory=dict)
    report: dict[str, Any] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        """JSON object for the level path and receipts (facts stay inside)."""
        report = {k: v for k, v in self.report.items() if v is not None}
        return {
            "type": self.type,
            "enabled": self.enabled,
            "levels": self.levels.as_json(),
            "report": report,
        }


@dataclass(frozen=True)
class ChainResult:
    """Measures before and after, and the points in between."""

    before: Measures
    after: Measures
    points: tuple[Point, ...]
    #: Where the noise is read, before and after.
    room_tone: Span | None
    room_tone_source: str  # marked, found, other recording, none
    #: Where in the recording noise is learned from.
    learned_spans: tuple[Span, ...] = ()

    def room_tone_json(self) -> dict[str, Any]:
        """The room tone as JSON."""
        tone = self.room_tone
        return {
            "source": self.room_tone_source,
            "span": tone.as_json() if tone else None,
            "learned_spans": [span.as_json() for span in self.learned_spans],
        }

    @property
    def notes(self) -> list[str]:
        """What steps had to say in words."""
        said = [(STEP_TYPES[p.type].label, p.report.get("note")) for p in self.points]
        return [f"{label}: {note}" for label, note in said if note]

    @property
    def mended(self) -> dict[str, int]:
        """How many events each repair has mended, by its label."""
        counts: dict[str, int] = {}
        for point in self.points:
            if (count := point.report.get("mended")) is not None:
                label = STEP_TYPES[point.type].label
                counts[label] = counts.get(label, 0) + count
        return counts


def _no_progress(progress: Progress) -> None:
    pass


def _never() -> bool:
    return False


def run_chain(
    source: Source,
    chain: Chain,
    sink: Sink,
    *,
    also: Sequence[Sink] = (),
    room_tone: RoomTone | None = None,
    before: Measures | None = None,
    progress: Callable[[Progress], None] = _no_progress,
    cancelled: Callable[[], bool] = _never,
    work_folder: Path | None = None,
    block_samples: int = BLOCK_SAMPLES,
    sink_ns: float = SINK_NS,
) -> ChainResult:
    """Process a whole recording.

    Parameters
    ----------
    source : the recording; read several times. Marks that come with it are given to the steps.
    chain : steps in order.
    sink : takes the finished blocks in order, as many samples as the source has.
    also : further takers of them, each beside the others.
    room_tone : sample of the room; without it a stretch is looked for.
    before : measures of the source when they are known already.
    progress, cancelled : called at every block.
    work_folder : where spools go; the system's temporary folder if None.
    block_samples : samples of all channels handed on together.
    sink_ns : rough time that all these take for a sample of one channel; for the progress only.

    Raises
    ------
    BadInput
        The source cannot be read, or the room tone does not fit.
    Cancelled
        ``cancelled`` answered true.
    """
    run = _Run(source, chain, room_tone, progress, cancelled, work_folder, block_samples)
    plan = planned_passes_ns(chain, before is not None, sink_ns)
    with flushing_to_zero():
        try:
            return run.result((sink, *also), before, plan)
        finally:
            run.close()


@dataclass
class _Started:
    """A step whose facts are settled; ``known`` are the levels after it where no meter is needed,
    ``tone`` is the room tone it learned from."""

    index: int
    step: Step
    facts: Facts
    known: Levels | None
    tone: Block | None

    def report(self, info: SignalInfo, processor: Processor) -> dict[str, Any]:
        """What the step did."""
        tone = self.tone
        on_tone = self.step.tone_report(tone, info, self.facts) if tone is not None else {}
        return on_tone | processor.report()


class _Run:
    def __init__(
        self,
        source: Source,
        chain: Chain,
        room_tone: RoomTone | None,
        progress: Callable[[Progress], None],
        cancelled: Callable[[], bool],
        work_folder: Path | None,
        block_samples: int,
    ) -> None:
        self._source, self._chain = source, chain
        self._info = source.info
        self._given_tone = room_tone.checked(self._info) if room_tone else None
        self._marks = marks_of(source)
        self._progress, self._cancelled = progress, cancelled
        # As long in bytes for two channels as for one.
        self._folder, self._block = work_folder, max(1, block_samples // self._info.channels)
        self._from: Source = source  # where the next pass starts
        self._spool: Spool | None = None
        self._spare: Spool | None = None  # what the next pass may write over
        self._pending: list[_Started] = []
        self._settled: list[_Started] = []
        self._measures: Measures | None = None  # of the sound after all settled steps
        self._levels: Levels = Levels(None, None, None)
        self._points: dict[int, Point] = {}
        self._tone_span: Span | None = None
        self._done_ns, self._planned_ns = 0.0, list[float]()

    def close(self) -> None:
        for spool in (self._spool, self._spare):
            if spool:
                spool.close()

    def result(
        self, sinks: Sequence[Sink], before: Measures | None, plan_ns: list[float]
    ) -> ChainResult:
        self._planned_ns = plan_ns
        self._before = before or self._measure_source()
        self._tone_span, tone_source = noise_span(self._given_tone, self._before)
        self._before = self._with_noise_at_span(self._before)
        self._measures, self._levels = self._before, self._before.levels
        for index, entry in enumerate(self._chain):
            if entry.is_active:
                self._settle(index, entry)
        after = self._final_pass(sinks)
        self._progress(Progress(1.0, "done"))
        learned = learned_spans(self._given_tone, self._before)
        points = self._all_points()
        return ChainResult(self._before, after, points, self._tone_span, tone_source, learned)

    # -- room tone ---------------------------------------------------------------------------

    def _with_noise_at_span(self, measures: Measures) -> Measures:
        """Measures with the noise read where it is read all along the chain, to be comparable."""
        span = self._tone_span
        if span is None or span == measures.noise_floor_span:
            return measures
        noise, voice = noise_at(self._source, span), measures.voice_level_dbfs
        return replace(
            measures,
            noise_floor_dbfs=noise,
            noise_floor_source="room tone" if noise is not None else None,
            noise_floor_span=span,
            clearance_db=voice - noise if voice is not None and noise is not None else None,
        )

    def _with_room(self, step_input: StepInput) -> StepInput:
        """Room tone, and where it is short speech, as they arrive after all settled steps."""
        steps = [(started.step, started.facts) for started in self._settled]
        tone, spoken = (
            tone_after(pieces(self._source, self._given_tone, self._before), steps, self._info)
            for pieces in (tone_before, spoken_before)
        )
        return replace(step_input, room_tone=tone, spoken=spoken)

    # -- settling steps ----------------------------------------------------------------------

    def _settle(self, index: int, entry: ChainStep) -> None:
        step = entry.step
        if step.measures_wanted and self._measures is None:
            self._spool_pending(step)
        if self._measures and "speakers" in step.measures_wanted - self._measures.parts:
            self._add_speakers(step)
        marks = self._marks
        step_input = StepInput(
            self._info, self._measures, speakers=marks.speakers, repairs=marks.repairs
        )
        if step.needs_room_tone:
            step_input = self._with_room(step_input)
        trial = step.trial(step_input)
        if trial is not None:
            if self._pending:
                self._spool_pending(step)
            measured = self._measured(trial, f"{step.label}: trying out", step.trial_parts)
            step_input = replace(step_input, measures=self._measures, trial=measured)
        facts = step.facts(step_input)
        gain_db, offsets = step.plain_gain_db(facts), step.plain_offsets(facts)
        known = None
        self._measures = None if gain_db is None else self._moved(gain_db, offsets)
        if gain_db is not None and self._levels_are_known():
            if self._measures:
                known = self._measures.levels
            elif not any(offsets):
                known = self._levels.shifted(gain_db)
        started = _Started(index, step, facts, known, step_input.room_tone)
        if known:
            self._levels = known
        self._pending.append(started)
        self._settled.append(started)

    def _add_speakers(self, step: Step) -> None:
        """What tells voices apart, to measures that were taken without it."""
        if self._pending:
            self._spool_pending(step)
            return
        assert self._measures is not None
        parts = frozenset({"speakers"})
        found = self._measured(None, f"{step.label}: who speaks when", parts)
        self._measures = replace(
            self._measures,
            speaker_frames=found.speaker_frames,
            parts=self._measures.parts | parts,
        )

    def _moved(self, gain_db: float, offsets: tuple[float, ...]) -> Measures | None:
        """The measures behind a plain gain, as far as they follow from it."""
        centred = self._measures.centred(offsets) if self._measures else None
        return centred.shifted(gain_db) if centred else None

    def _levels_are_known(self) -> bool:
        return all(s.known for s in self._pending)

    # -- passes ------------------------------------------------------------------------------

    def _run(self, line: Pipeline, doing: str) -> None:
        """A pass, with progress and the chance to stop."""
        total = max(1, self._info.length_samples)
        this_ns = self._planned_ns.pop(0) if self._planned_ns else 0.0
        all_ns = max(1.0, self._done_ns + this_ns + sum(self._planned_ns))

        def watch(done_samples: int) -> None:
            if self._cancelled():
                raise Cancelled
            share = (self._done_ns + this_ns * done_samples / total) / all_ns
            self._progress(Progress(min(share, 0.999), doing))

        line.run(watch)
        give_back_gaps()
        self._done_ns += this_ns

    def _measured(self, trial: Processor | None, doing: str, parts: frozenset[str]) -> Measures:
        """Measures of what is there now, or of what ``trial`` would make of it."""
        meter = FullMeter(self._info, self._tone_span, parts)
        line = Pipeline(self._from.blocks(self._block))
        if trial is not None:
            line.process_blocks(trial)
        for push in meter.pushes:
            line.past(push)
        self._run(line, doing)
        return meter.finish()

    def _measure_source(self) -> Measures:
        return self._measured(None, "measuring", FullMeter.PARTS)

    def _spool_pending(self, step: Step) -> None:
        """Run the pending steps into a spool, measuring what comes out of each."""
        if self._spare is None:
            self._spare = Spool(self._info, self._folder)
        spool = self._spare
        spool.restart()
        # The level after the last pending step is read off the same measures.
        wanted = step.measures_wanted | LEVEL_PARTS | {"peak"}
        self._measures = self._pass_pending((spool.write,), wanted)
        spool.rewind()
        self._spool, self._spare, self._from = spool, self._spool, spool

    def _final_pass(self, sinks: Sequence[Sink]) -> Measures:
        if not self._settled:
            return self._copy(sinks)
        known = self._measures if self._levels_are_known() else None
        if known and known.is_full:
            # Nothing but plain gains is left: what comes out is known without a meter.
            self._pass_pending(sinks, frozenset())
            return known
        return self._pass_pending(sinks, FullMeter.OF_RESULTS)

    def _copy(self, sinks: Sequence[Sink]) -> Measures:
        """Nothing changes the sound: hand the samples on exactly, 32-bit integers included."""
        exact = getattr(self._source, "exact_blocks", self._source.blocks)
        for block in exact(self._block):
            if self._cancelled():
                raise Cancelled
            for sink in sinks:
                sink(block)
        return self._before

    def _pass_pending(self, sinks: Sequence[Sink], parts: frozenset[str]) -> Measures:
        pending, self._pending = self._pending, []
        names = ", ".join(p.step.label for p in pending) or "writing"
        taps: list[tuple[_Started, Processor, LevelMeter | None]] = []
        last = FullMeter(self._info, self._tone_span, parts) if parts else None
        line = Pipeline(self._from.blocks(self._block))
        for started in pending:
            processor = started.step.start(self._info, started.facts)
            line.process_blocks(processor)
            meter = None
            if not started.known and started is not pending[-1]:
                meter = LevelMeter(self._info, self._tone_span)
                line.past(meter.push)
            taps.append((started, processor, meter))
        for push in last.pushes if last else ():
            line.past(push)
        for sink in sinks:
            line.past(sink)
        self._run(line, names)
        after = last.finish() if last else self._measures
        assert after is not None
        for started, processor, meter in taps:
            levels = started.known or (meter.finish() if meter else after.levels)
            self._levels = levels
            self._points[started.index] = Point(
                started.step.type,
                True,
                levels,
                started.facts,
                started.report(self._info, processor),
            )
        return after

    def _all_points(self) -> tuple[Point, ...]:
        """Points of all steps; those that did nothing repeat the levels before them."""
        levels = self._before.levels
        points = []
        for index, entry in enumerate(self._chain):
            point = self._points.get(index) or Point(entry.step.type, entry.enabled, levels)
            levels = point.levels
            points.append(point)
        return tuple(points)
