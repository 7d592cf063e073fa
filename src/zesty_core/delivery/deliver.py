"""From a recording to a finished file: chain, fitted ending, encoding, check on the file itself.

The check is on what was delivered: a lossy file is measured after encoding, and where the encoder has
raised peaks over the ceiling the ending is set lower and the file made again.
"""

from __future__ import annotations

import fcntl
import os
import shutil
import tempfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager, contextmanager, nullcontext
from dataclasses import dataclass, replace
from pathlib import Path

from zesty_core.audio.conversion import ConvertingSink
from zesty_core.audio.encoding import LOSSY, Encoding, make_writer
from zesty_core.audio.markers import Chapter
from zesty_core.audio.part_file import why_not_written
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.tags import Cover, Tags
from zesty_core.chain.recipe import Chain
from zesty_core.chain.runner import ChainResult, Progress, Sink, run_chain
from zesty_core.chain.tone_in_chain import noise_at
from zesty_core.delivery.end_pieces import EndPiece, JoinedPiece, JoinedSource
from zesty_core.delivery.ending import Ending, body_of, fit_ending
from zesty_core.delivery.folding import fold_into, joined, run_folded, tone_behind
from zesty_core.foundation.errors import UnwritableAudio
from zesty_core.foundation.room_tone import RoomTone
from zesty_core.foundation.signal import Source
from zesty_core.foundation.spool import Spool
from zesty_core.measures.report import Measures
from zesty_core.measures.stream import measure
from zesty_core.runtime.denormals import flushing_to_zero
from zesty_core.steps.limiter import Limiter
from zesty_core.targets.check import FileFacts, Rule, check_file, check_measures
from zesty_core.targets.document import Target

#: Gives what takes the chain's own sound besides the file; opened anew for each try.
Also = Callable[[], AbstractContextManager[Sequence[Sink]]]
_TRIES = 4
_STAGING = ".zesty-"
_SPARE_DB = 0.1
#: Shares of the work, by trial: chain, fitting and writing, measuring the file.
_CHAIN_SHARE, _WRITE_SHARE = 0.7, 0.9


@dataclass(frozen=True)
class Order:
    """What is to be made. ``rate_hz`` and ``channels`` of None are as the recording's."""

    chain: Chain
    encoding: Encoding
    target: Target | None = None
    rate_hz: int | None = None
    channels: int | None = None
    #: Sample format of WAV and FLAC where no depth is asked for.
    subtype: str = "PCM_24"
    tags: Tags | None = None
    cover: Cover | None = None
    #: How far this file may stand from its set's level.
    offset_lu: float = 0.0
    #: Of the recording as it goes into the chain.
    chapters: tuple[Chapter, ...] = ()
    intro: EndPiece | None = None
    outro: EndPiece | None = None


@dataclass(frozen=True)
class Delivered:
    """A finished file: the chain as it ran, ending included, and the measures of the file itself."""

    chain: Chain
    result: ChainResult
    file: Measures
    facts: FileFacts
    rules: tuple[Rule, ...]
    notes: tuple[str, ...]
    clipped_samples: int
    chapters: tuple[Chapter, ...] = ()
    pieces: tuple[JoinedPiece, ...] = ()

    @property
    def is_missed(self) -> bool:
        """Whether a rule of the target is not met, or cannot be determined."""
        return any(rule.is_met is not True for rule in self.rules)


def deliver(
    source: Source,
    order: Order,
    out: Path,
    *,
    room_tone: RoomTone | None = None,
    before: Measures | None = None,
    also: Also | None = None,
    beside: Callable[[Delivered, Path], None] = lambda delivered, staged: None,
    progress: Callable[[Progress], None] = lambda progress: None,
    cancelled: Callable[[], bool] = lambda: False,
    work_folder: Path | None = None,
) -> Delivered:
    """Make the file ``out``; it is there, whole, when this returns, and not otherwise.

    Parameters
    ----------
    source : the recording, edits included.
    room_tone, before, progress, cancelled, work_folder : as of
        :func:`~zesty_core.chain.runner.run_chain`.
    also : gives a context whose sinks take the chain's sound before rate and format are changed; one
        channel where a recording of two is delivered in mono.
    beside : called with the finished file just before it gets its name, to write what goes with it.

    Raises
    ------
    BadInput, UnwritableAudio, Cancelled
        Nothing is left behind.
    """
    with flushing_to_zero(), _staging(out) as staged:
        work = _Work(source, order, staged, room_tone, also, progress, cancelled, work_folder)
        try:
            made = work.made(before)
        finally:
            work.close()
        beside(made, staged)
        staged.replace(out)
        return made


class _Work:
    def __init__(
        self,
        source: Source,
        order: Order,
        staged: Path,
        room_tone: RoomTone | None,
        also: Also | None,
        progress: Callable[[Progress], None],
        cancelled: Callable[[], bool],
        work_folder: Path | None,
    ) -> None:
        self._source, self._order, self._staged = source, order, staged
        self._tone, self._also = room_tone, also or (lambda: nullcontext(()))
        self._progress, self._cancelled, self._folder = progress, cancelled, work_folder
        self._target = order.target.moved(order.offset_lu) if order.target else None
        self._rate_hz = order.encoding.rate_hz(order.rate_hz or source.info.sample_rate_hz)
        self._channels = order.channels or source.info.channels
        self._folds = self._channels < source.info.channels
        self._spool: Spool | None = None
        #: The voice with intro and outro, once its loudness is known.
        self._with_ends: JoinedSource | None = None
        self._clipped = 0

    def close(self) -> None:
        if self._spool:
            self._spool.close()

    def made(self, before: Measures | None) -> Delivered:
        chain, order = self._order.chain, self._order
        has_ends = order.intro is not None or order.outro is not None
        if self._target is None and not has_ends:
            return self._delivered(chain, self._written(self._source, chain, self._tone, before))
        body, limiter = body_of(chain) if self._target else (chain, Limiter())
        first = self._spooled(body, before)
        assert self._spool is not None
        source: Source = self._spool
        measures, tone = first.after, tone_behind(first)
        if has_ends:
            source = self._with_ends = JoinedSource(
                source, self._channels, measures.integrated_lufs, order.intro, order.outro
            )
            tone = self._with_ends.tone(tone)
            measures = measure(source.blocks(), source.info, tone.spans[0] if tone else None)
        lowered_db, delivered = 0.0, None
        for _ in range(_TRIES):
            ending = self._ending(source, measures, limiter, lowered_db)
            last = self._written(source, ending.steps, tone, measures)
            chain = (*body, *ending.steps)
            delivered = self._delivered(chain, joined(first, last), ending.notes)
            over_db = self._over_db(delivered)
            if over_db <= 0.0:
                break
            lowered_db += over_db + _SPARE_DB
        assert delivered is not None
        return delivered

    def _ending(
        self, source: Source, measures: Measures, limiter: Limiter, lowered_db: float
    ) -> Ending:
        if self._target is None:
            return Ending(())
        return fit_ending(
            source,
            measures,
            self._target,
            limiter,
            doubled=self._channels > source.info.channels,
            lowered_db=lowered_db,
            cancelled=self._cancelled,
        )

    def _spooled(self, body: Chain, before: Measures | None) -> ChainResult:
        """Run the chain up to its final level into the spool, on one channel if one is delivered."""
        info = replace(self._source.info, channels=min(self._channels, self._source.info.channels))
        self._spool = spool = Spool(info, self._folder)
        if self._folds:
            return fold_into(
                spool,
                self._source,
                body,
                room_tone=self._tone,
                before=before,
                progress=self._within(0.0, _CHAIN_SHARE),
                cancelled=self._cancelled,
                work_folder=self._folder,
            )
        result = run_chain(
            self._source,
            body,
            spool.write,
            room_tone=self._tone,
            before=before,
            progress=self._within(0.0, _CHAIN_SHARE),
            cancelled=self._cancelled,
            work_folder=self._folder,
        )
        spool.rewind()
        return result

    def _over_db(self, delivered: Delivered) -> float:
        """How far a lossy file's peaks lie over their ceilings, as the rules see it."""
        if self._order.encoding.container not in LOSSY:
            return 0.0
        peaks = ("true_peak_dbtp", "sample_peak_dbfs")
        return max((r.off_by or 0.0 for r in delivered.rules if r.name in peaks), default=0.0)

    def _written(
        self, source: Source, chain: Chain, tone: RoomTone | None, before: Measures | None
    ) -> ChainResult:
        order, info = self._order, source.info
        writer = make_writer(
            self._staged,
            order.encoding,
            self._rate_hz,
            self._channels,
            subtype=order.subtype,
            length_samples=round(info.duration_s * self._rate_hz),
            tags=order.tags,
            cover=order.cover,
            chapters=self._chapters,
        )
        with self._also() as beside, writer:
            ends = self._with_ends
            also = [ends.voice_sink(sink) for sink in beside] if ends else beside
            folds = self._channels < info.channels
            made = replace(info, channels=min(self._channels, info.channels))
            sink = ConvertingSink(writer, made, self._rate_hz, self._channels)
            run = run_folded if folds else run_chain
            result = run(
                source,
                chain,
                sink.write,
                also=also,
                room_tone=tone,
                before=before,
                progress=self._within(_CHAIN_SHARE if self._spool else 0.0, _WRITE_SHARE),
                cancelled=self._cancelled,
                work_folder=self._folder,
            )
            sink.finish()
        self._clipped = writer.clipped_samples
        return result

    def _delivered(
        self, chain: Chain, result: ChainResult, notes: tuple[str, ...] = ()
    ) -> Delivered:
        self._progress(Progress(_WRITE_SHARE, "measuring the finished file"))
        file = AudioFile(self._staged)
        measures = measure(file.blocks(), file.info)
        if result.room_tone:
            floor = noise_at(file, result.room_tone)
            measures = replace(measures, noise_floor_dbfs=floor, noise_floor_source="room tone")
        order = self._order
        facts = FileFacts(
            order.encoding.container,
            self._rate_hz,
            self._channels,
            order.encoding.depth or _depth(order),
            order.encoding.bitrate_kbps,
        )
        rules: list[Rule] = []
        if order.target:
            rules += check_measures(order.target, measures.as_json(), order.offset_lu)
            rules += check_file(order.target, facts)
        return Delivered(
            chain,
            result,
            measures,
            facts,
            tuple(rules),
            (*notes, *result.notes),
            self._clipped,
            self._chapters,
            tuple(self._with_ends.pieces) if self._with_ends else (),
        )

    @property
    def _chapters(self) -> tuple[Chapter, ...]:
        """Of the file."""
        chapters = self._order.chapters
        return self._with_ends.chapters(chapters) if self._with_ends else chapters

    def _within(self, start: float, stop: float) -> Callable[[Progress], None]:
        def tell(progress: Progress) -> None:
            share = start + progress.share * (stop - start)
            self._progress(Progress(share, progress.doing))

        return tell


@contextmanager
def _staging(out: Path) -> Iterator[Path]:
    """Where a file is made before it gets its name: a folder beside it, gone afterwards.

    The folder is locked as long as its process lives, so that leavings are recognised.
    """
    try:
        folder = Path(tempfile.mkdtemp(prefix=_STAGING, dir=out.parent))
    except OSError as fault:
        raise UnwritableAudio(out.name, why_not_written(fault, out.parent)) from None
    lock = os.open(folder, os.O_RDONLY)
    try:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield folder / out.name
    finally:
        shutil.rmtree(folder, ignore_errors=True)
        os.close(lock)


def remove_staged(folder: Path) -> None:
    """Remove what processes that are gone have left in a folder for deliveries."""
    for left in folder.glob(f"{_STAGING}*"):
        lock = os.open(left, os.O_RDONLY)
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            shutil.rmtree(left, ignore_errors=True)
        except BlockingIOError:
            pass
        finally:
            os.close(lock)


def _depth(order: Order) -> str | None:
    if order.encoding.container in LOSSY:
        return None
    return {"PCM_16": "16", "PCM_24": "24", "FLOAT": "32f"}.get(order.subtype)
