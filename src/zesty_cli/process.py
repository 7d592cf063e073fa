"""``zesty process``: one recipe on one file."""

from __future__ import annotations

import argparse
import json
import re
import sys
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from zesty_cli.progress import ProgressLine
from zesty_cli.standard_streams import STANDARD, opened, out_path
from zesty_core import ENGINE_VERSION
from zesty_core.audio.channels import MonoSource
from zesty_core.audio.conversion import ConvertingSink
from zesty_core.audio.cuts import CutSource
from zesty_core.audio.edits import checked_repairs, checked_speakers
from zesty_core.audio.encoding import Encoding, make_writer
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.tag_reader import read_tags
from zesty_core.audio.tags import checked_tags
from zesty_core.audio.writer import depth_for
from zesty_core.chain.recipe import Recipe
from zesty_core.chain.runner import ChainResult, run_chain
from zesty_core.delivery.folding import run_folded
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.marks import NO_MARKS, MarkedSource, Marks
from zesty_core.foundation.repairs import Repairs
from zesty_core.foundation.room_tone import LONGEST_S, RoomTone
from zesty_core.foundation.signal import Source, Span
from zesty_core.foundation.speakers import Speakers
from zesty_core.measures.report import Measures
from zesty_core.scripting import load_recipe

_SPAN = re.compile(r"^[0-9.eE+-]+:[0-9.eE+-]+$")


def process_command(options: argparse.Namespace) -> int:
    """Run a recipe on a file and write the result."""
    with ExitStack() as stack:
        out = stack.enter_context(out_path(options.out))
        return _process(options, opened(options.source, stack), out)


def _process(options: argparse.Namespace, file: AudioFile, out: Path) -> int:
    encoding = Encoding.for_path(out, options.depth, options.bitrate, options.vbr)
    given = checked_tags(tags_given(options.tag))
    recipe = load_recipe(options.recipe)
    check_out(out, file.path, options.force)
    own_tags, cover = ({}, None) if options.drop_tags else read_tags(file.path)
    source: Source = file
    if options.mono and file.info.channels > 1:
        source = MonoSource(source, options.mono)
    if options.cut:
        source = CutSource(source, _cuts(options.cut, file.info.duration_s))
    tone = _room_tone(options.room_tone, file, bool(options.cut))
    marks = Marks(
        _speakers(options.speakers, source.info.duration_s) if options.speakers else None,
        _repairs(options.repairs, source.info.duration_s) if options.repairs else None,
    )
    if marks != NO_MARKS:
        source = MarkedSource(source, marks)
    info = source.info
    rate_hz = encoding.rate_hz(options.rate or info.sample_rate_hz)
    channels = options.channels or info.channels
    converts = rate_hz != info.sample_rate_hz or channels != file.info.channels
    changes = converts or any(c.is_active for c in recipe.chain)
    keeps_depth = not changes and file.is_wave and encoding.container == "WAV"
    subtype = file.format.subtype if keeps_depth else depth_for(file.format, encoding.container)
    length_samples = round(info.duration_s * rate_hz)
    with (
        ProgressLine(info.duration_s, options.quiet, options.verbose) as line,
        make_writer(
            out,
            encoding,
            rate_hz,
            channels,
            subtype=subtype,
            dither=changes or file.format.bits != 16,
            length_samples=length_samples,
            tags=own_tags | given,
            cover=cover,
        ) as writer,
    ):
        folds = channels < info.channels
        made = replace(info, channels=min(channels, info.channels))
        sink = ConvertingSink(writer, made, rate_hz, channels)
        run = run_folded if folds else run_chain
        result = run(
            source,
            recipe.chain,
            sink.write,
            room_tone=tone,
            progress=line.show,
            work_folder=out.parent,
        )
        sink.finish()
    # What goes to standard output is the sound itself.
    if (options.json or not options.quiet) and options.out != STANDARD:
        _print(options.json, file, out, recipe, result, writer.clipped_samples)
    return 0


def tags_given(given: list[str]) -> dict[str, str]:
    """Tags of ``--tag NAME=TEXT``."""
    tags: dict[str, str] = {}
    for entry in given:
        name, equals, text = entry.partition("=")
        if not equals:
            raise BadInput(f"--tag: must be NAME=TEXT, got {entry!r}", path="tags")
        tags[name.strip()] = text.strip()
    return tags


def check_out(out: Path, source: Path, force: bool) -> None:
    """Raises :class:`BadInput` where nothing may be written."""
    if out.exists() and out.resolve() == source.resolve():
        raise BadInput(f"{out.name}: the result cannot replace the recording itself", path="out")
    if out.is_dir():
        raise BadInput(f"{out.name} is a folder; name a file", path="out")
    if out.exists() and not force:
        raise BadInput(f"{out.name} exists already; --force replaces it", path="out")
    if not out.parent.is_dir():
        raise BadInput(f"{out.name}: the folder {out.parent} does not exist", path="out")


def _document(path: str, option: str) -> Any:
    try:
        return json.loads(Path(path).read_text(encoding="utf-8"))
    except (OSError, ValueError) as fault:
        raise BadInput(f"--{option} {path}: cannot be read ({fault})", path=option) from None


def _speakers(path: str, duration_s: float) -> Speakers:
    """The document, where it fits."""
    return Speakers.from_json(checked_speakers(_document(path, "speakers"), duration_s))


def _repairs(path: str, duration_s: float) -> Repairs | None:
    """The document, where it fits; None where it names nothing."""
    checked = checked_repairs(_document(path, "repairs"), duration_s)
    return Repairs.from_json(checked) if checked else None


def _cuts(spans: list[tuple[float, float]], duration_s: float) -> list[Span]:
    return [Span.checked(a, b, "--cut", duration_s) for a, b in spans]


def _room_tone(given: list[str], file: AudioFile, has_cuts: bool) -> RoomTone | None:
    """Spans of the recording, or the sound of another file."""
    if not given:
        return None
    if len(given) == 1 and (Path(given[0]).exists() or not _SPAN.match(given[0])):
        other = AudioFile(given[0])
        samples = other.read(0, round(LONGEST_S * other.info.sample_rate_hz))
        return RoomTone(samples=samples, sample_rate_hz=other.info.sample_rate_hz)
    spans = tuple(_span(entry, file.info.duration_s) for entry in given)
    if not has_cuts:
        return RoomTone(spans=spans)
    # Times of the recording mean nothing after cuts, so the sound itself is handed on.
    rate = file.info.sample_rate_hz
    samples = np.concatenate([file.read(*span.samples(rate)) for span in spans], axis=1)
    return RoomTone(samples=samples, sample_rate_hz=rate, source="marked")


def _span(text: str, duration_s: float) -> Span:
    start, _, end = text.partition(":")
    try:
        return Span.checked(float(start), float(end), "--room-tone", duration_s)
    except ValueError:
        raise BadInput(
            f"--room-tone: must be START:END in seconds or one sound file, got {text!r}",
            path="room_tone",
        ) from None


def _print(
    as_json: bool, file: AudioFile, out: Path, recipe: Recipe, result: ChainResult, clipped: int
) -> None:
    if as_json:
        print(json.dumps(_receipt(file, out, recipe, result, clipped), indent=2))
        return
    print(f"{out.name}: {recipe.name}")
    print(_row("before", result.before))
    for point in result.points:
        levels = point.levels
        shown = " ".join(
            _figure(v)
            for v in (levels.true_peak_dbtp, levels.voice_level_dbfs, levels.noise_floor_dbfs)
        )
        print(f"{point.type:>16} {shown}{'' if point.enabled else '  off'}")
    print(_row("after", result.after))
    for note in result.notes:
        print(f"note: {note}", file=sys.stderr)
    if clipped:
        print(f"note: {clipped} samples above full scale were cut off", file=sys.stderr)


def _row(label: str, m: Measures) -> str:
    shown = " ".join(_figure(v) for v in (m.true_peak_dbtp, m.voice_level_dbfs, m.noise_floor_dbfs))
    return f"{label:>16} {shown}  (true peak dBTP, voice level dBFS, noise floor dBFS)"


def _figure(value: float | None) -> str:
    return "      -" if value is None else f"{value:7.1f}"


def _receipt(
    file: AudioFile, out: Path, recipe: Recipe, result: ChainResult, clipped: int
) -> dict[str, Any]:
    return {
        "in": file.name,
        "out": out.name,
        "engine_version": ENGINE_VERSION,
        "recipe": recipe.as_json(),
        "room_tone": result.room_tone_json(),
        "before": result.before.as_json(),
        "after": result.after.as_json(),
        "steps": [p.as_json() for p in result.points],
        "notes": result.notes,
        "clipped_samples": clipped,
    }
