"""``zesty batch``: a recipe over files and folders, towards a target."""

from __future__ import annotations

import argparse
import contextlib
import json
import signal
import sys
import threading
import time
from collections.abc import Iterable, Iterator
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from types import FrameType
from typing import Any

from zesty_cli.delivery_options import cover_of, end_pieces, file_wish, named_target
from zesty_cli.process import tags_given
from zesty_cli.worked_files import Outcome, work_on
from zesty_core.audio.endings import looks_like_sound
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.tag_reader import read_tags
from zesty_core.audio.tags import checked_tags
from zesty_core.chain.recipe import Recipe
from zesty_core.delivery.deliver import remove_staged
from zesty_core.delivery.file_job import FileJob
from zesty_core.delivery.level_set import offsets_lu
from zesty_core.delivery.names import checked_pattern, file_name, filled_text, without_collisions
from zesty_core.delivery.receipt import sha256_of
from zesty_core.foundation.errors import BadInput, ZestyError
from zesty_core.foundation.room_tone import LONGEST_S, RoomTone
from zesty_core.measures.stream import measure
from zesty_core.scripting import load_recipe

DONE, FAILED, MISSED = 0, 1, 3
_LOOK_EVERY_S = 1.0
_RECEIPT = ".receipt.json"


def batch_command(options: argparse.Namespace) -> int:
    """Deliver all of them; 3 when a target was missed, 1 when a file failed."""
    batch = _Batch(options)
    paths = batch.found()
    if not paths and not options.watch:
        raise BadInput("batch: there is no sound file in what was named", path="in")
    outcomes = batch.work(paths)
    if options.watch:
        outcomes += _watched(batch, paths, options.quiet)
    _tell(options, outcomes)
    if any(o.error for o in outcomes):
        return FAILED
    return MISSED if any(o.is_missed for o in outcomes) else DONE


class _Batch:
    """What is common to all files of a batch."""

    def __init__(self, options: argparse.Namespace) -> None:
        self._options = options
        self._recipe: Recipe = load_recipe(options.recipe)
        self._pattern = checked_pattern(options.name)
        self._target = named_target(options.target) if options.target else None
        self._wish = file_wish(options, self._target, options.format)
        if self._target:
            self._target = replace(self._target, file=self._wish)
        self._encoding = self._wish.encoding()
        self._tags = checked_tags(tags_given(options.tag))
        self._cover = cover_of(options.cover)
        self._tone = _tone(options.room_tone)
        self._pieces = end_pieces(options)
        if options.workers < 1:
            raise BadInput(f"--workers: must be at least 1, got {options.workers}", path="workers")
        self._out = Path(options.out)
        try:
            self._out.mkdir(parents=True, exist_ok=True)
        except OSError as fault:
            raise BadInput(f"--out: {self._out}: {fault.strerror}", path="out") from None
        remove_staged(self._out)

    def found(self) -> list[Path]:
        """Sound files among what was named; those in folders in the order of their names."""
        paths: list[Path] = []
        for name in self._options.sources:
            path = Path(name)
            if not path.exists():
                raise BadInput(f"{name}: there is no such file or folder", path="in")
            inside = sorted(p for p in path.iterdir() if p.is_file()) if path.is_dir() else [path]
            paths += [p for p in inside if not path.is_dir() or looks_like_sound(p)]
        ours = self._out.resolve()
        return [p for p in dict.fromkeys(paths) if p.resolve().parent != ours]

    def work(self, paths: list[Path]) -> list[Outcome]:
        """Deliver those that are not delivered yet."""
        if not paths:
            return []
        outcomes: list[Outcome] = []
        jobs: list[FileJob] = []
        delivered, names_taken = self._delivered(), self._names()
        for job in self._jobs(paths):
            if job.mark in delivered:
                outcomes.append(Outcome(job.path.name, delivered[job.mark], was_there=True))
                continue
            jobs.append(job)
        free = without_collisions([job.name for job in jobs], names_taken)
        named = [_renamed(job, name) for job, name in zip(jobs, free, strict=True)]
        return outcomes + work_on(named, self._options.workers)

    def _jobs(self, paths: list[Path]) -> list[FileJob]:
        offsets = self._offsets(paths)
        return [
            self._job(path, at, offset)
            for at, (path, offset) in enumerate(zip(paths, offsets, strict=True))
        ]

    def _job(self, path: Path, at: int, offset_lu: float) -> FileJob:
        values = self._values(path, at)
        own_tags, own_cover = ({}, None) if self._options.drop_tags else read_tags(path)
        tags = {name: filled_text(text, values) for name, text in self._tags.items()}
        return FileJob(
            path,
            self._out,
            file_name(self._pattern, values),
            self._recipe,
            self._encoding,
            self._target,
            self._wish.sample_rate_hz,
            self._wish.channels,
            self._options.mono,
            own_tags | tags,
            self._cover or own_cover,
            self._tone,
            offset_lu,
            *self._pieces,
            sha256=sha256_of(path),
        )

    def _values(self, path: Path, at: int) -> dict[str, object]:
        return {
            "title": path.stem,
            "original": path.stem,
            "show": self._options.show,
            "number": at + 1,
            "take": at + 1,
            "recipe": self._recipe.name,
            "target": self._target.name if self._target else "",
            "date": f"{datetime.now(UTC):%Y-%m-%d}",
        }

    def _offsets(self, paths: list[Path]) -> list[float]:
        if self._options.set_level != "keep" or self._target is None:
            return [0.0] * len(paths)
        return offsets_lu([_loudness(path) for path in paths])

    def _delivered(self) -> dict[str, dict[str, Any]]:
        """Receipts of what lies there whole, by the mark of their orders."""
        known = {}
        for path in self._out.glob(f"*{_RECEIPT}"):
            try:
                receipt = json.loads(path.read_text(encoding="utf-8"))
                if (self._out / receipt["file"]["name"]).exists():
                    known[receipt["order"]] = receipt
            except (OSError, ValueError, KeyError, TypeError):
                continue
        return known

    def _names(self) -> set[str]:
        """Names that are taken, with whatever ending; a file without a receipt was never finished."""
        ending = f".{self._encoding.container.lower()}"
        taken = {p.name for p in self._out.iterdir() if p.suffix == ending}
        return {Path(name).stem for name in taken}


def _renamed(job: FileJob, name: str) -> FileJob:
    return replace(job, name=name)


def _watched(batch: _Batch, done: Iterable[Path], quiet: bool) -> list[Outcome]:
    """Work on what comes in, once it stops growing, until the user stops it."""
    if not quiet:
        print("zesty: watching; Ctrl+C ends it", file=sys.stderr)
    known, sizes = set(done), dict[Path, tuple[int, float]]()
    outcomes: list[Outcome] = []
    with contextlib.suppress(KeyboardInterrupt), _heard_stop() as stopped:
        while not stopped.is_set():
            settled = []
            for path in batch.found():
                state = path.stat()
                size = state.st_size, state.st_mtime
                if path not in known and sizes.get(path) == size:
                    settled.append(path)
                sizes[path] = size
            made = batch.work(settled)
            known |= set(settled)
            for outcome in _shown(made, quiet):
                print(outcome.line(), file=sys.stderr)
            outcomes += made
            time.sleep(_LOOK_EVERY_S)
    return outcomes


def _shown(outcomes: Iterable[Outcome], quiet: bool) -> Iterator[Outcome]:
    """All, or those that failed."""
    return (outcome for outcome in outcomes if not quiet or outcome.receipt is None)


@contextlib.contextmanager
def _heard_stop() -> Iterator[threading.Event]:
    """Set by Ctrl+C too: what that raises is lost where it meets an object just being cleared away."""
    stopped = threading.Event()

    def stop(number: int, frame: FrameType | None) -> None:
        stopped.set()
        raise KeyboardInterrupt

    before = signal.signal(signal.SIGINT, stop)
    try:
        yield stopped
    finally:
        signal.signal(signal.SIGINT, before)


def _tone(name: str | None) -> RoomTone | None:
    if name is None:
        return None
    file = AudioFile(name)
    samples = file.read(0, round(LONGEST_S * file.info.sample_rate_hz))
    return RoomTone(samples=samples, sample_rate_hz=file.info.sample_rate_hz)


def _loudness(path: Path) -> float | None:
    """Loudness as recorded; None for what cannot be read, which says so when it is worked on."""
    try:
        file = AudioFile(path)
        loudness = frozenset({"loudness"})
        return measure(file.blocks(), file.info, parts=loudness).integrated_lufs
    except ZestyError:
        return None


def _tell(options: argparse.Namespace, outcomes: list[Outcome]) -> None:
    if options.json:
        print(json.dumps([o.as_json() for o in outcomes], indent=2, ensure_ascii=False))
        return
    for outcome in _shown(outcomes, options.quiet):
        print(outcome.line())
    if options.quiet:
        return
    failed = sum(o.error is not None for o in outcomes)
    missed = sum(o.is_missed for o in outcomes)
    there = sum(o.was_there for o in outcomes)
    parts = [f"{len(outcomes) - failed - there} delivered"]
    parts += [f"{there} there already"] if there else []
    parts += [f"{missed} missed the target"] if missed else []
    parts += [f"{failed} failed"] if failed else []
    print(", ".join(parts))
