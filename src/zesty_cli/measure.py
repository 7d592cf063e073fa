"""``zesty measure``."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence
from contextlib import ExitStack
from typing import Any

from zesty_cli.standard_streams import opened
from zesty_core.advice.intake import intake_advice
from zesty_core.foundation.signal import Span
from zesty_core.foundation.units import format_time
from zesty_core.measures.report import Measures
from zesty_core.measures.stream import measure

_ROWS = (
    ("sample peak", "sample_peak_dbfs", "dBFS"),
    ("true peak", "true_peak_dbtp", "dBTP"),
    ("RMS", "rms_dbfs", "dBFS"),
    ("loudness", "integrated_lufs", "LUFS"),
    ("loudness range", "loudness_range_lu", "LU"),
    ("voice level", "voice_level_dbfs", "dBFS"),
    ("noise floor", "noise_floor_dbfs", "dBFS"),
    ("clearance", "clearance_db", "dB"),
)


def measure_command(options: argparse.Namespace) -> int:
    """Measure files and print the figures; JSON of several files is a list."""
    told: list[dict[str, Any]] = []
    with ExitStack() as stack:
        for name in options.files:
            source = opened(name, stack)
            span = None
            if options.room_tone:
                start_s, end_s = options.room_tone
                span = Span.checked(start_s, end_s, "--room-tone", source.info.duration_s)
            measures = measure(source.blocks(), source.info, span)
            if not options.json:
                print("\n".join(_lines(source.name, measures, is_marked=span is not None)))
                continue
            advice = [finding.as_json() for finding in intake_advice(measures)]
            told.append({"file": source.name, **measures.as_json(), "advice": advice})
    if options.json:
        print(json.dumps(told[0] if len(told) == 1 else told, indent=2))
    return 0


def _lines(name: str, measures: Measures, is_marked: bool) -> list[str]:
    channels = {1: "mono", 2: "stereo"}[measures.channels]
    lines = [
        f"{name}: {format_time(measures.duration_s)}, {measures.sample_rate_hz} Hz, {channels}"
    ]
    for label, field, unit in _ROWS:
        value = getattr(measures, field)
        shown = (
            f"{value:8.1f} {unit}"
            if value is not None
            else (f"       - ({measures.reasons.get(field, 'cannot be determined')})")
        )
        source = measures.noise_floor_source if field == "noise_floor_dbfs" else None
        lines.append(f"{label:>15} {shown}" + (f" ({source})" if source else ""))
    offsets = ", ".join(f"{v:+.5f}" for v in measures.dc_offset)
    lines += [f"{'DC offset':>15}  {offsets}", f"{'clipped runs':>15} {measures.clipped_runs:8d}"]
    if measures.hum:
        hum = measures.hum
        lines.append(f"{'hum':>15} {hum.level_dbfs:8.1f} dBFS at {hum.base_hz} Hz and harmonics")
    if not is_marked:
        lines.append(f"{'room tone':>15}  {_room_tone(measures.learned_spans)}")
    lines += [f"advice: {finding.text}" for finding in intake_advice(measures)]
    return lines


def _room_tone(found: Sequence[Span]) -> str:
    if not found:
        return "none found"
    first, *others = found
    more = {0: "", 1: " and in one more place"}.get(
        len(others), f" and in {len(others)} more places"
    )
    return f"found from {format_time(first.start_s)} to {format_time(first.end_s)}{more}"
