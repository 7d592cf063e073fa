"""``zesty mix``: a finished voice over a bed that dips while it speaks."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from zesty_cli.delivery_options import cover_of, file_wish, named_target
from zesty_cli.mix_options import given_settings
from zesty_cli.process import check_out, tags_given
from zesty_cli.progress import ProgressLine
from zesty_core import ENGINE_VERSION
from zesty_core.audio.channels import spread
from zesty_core.audio.encoding import Encoding
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.tags import checked_tags
from zesty_core.audio.writer import depth_for
from zesty_core.bed.distance import distance_of
from zesty_core.bed.finishing import UNKNOWN_OF_MIX, mix_chain, not_asked, target_of_mix
from zesty_core.bed.mix import MixSource
from zesty_core.bed.plan import BedPlan, hold_bed, measure_voice, plan_bed
from zesty_core.bed.settings import BedSettings
from zesty_core.delivery.deliver import Delivered, Order, deliver
from zesty_core.delivery.figures import shown

DONE, MISSED = 0, 3


def mix_command(options: argparse.Namespace) -> int:
    """Lay the bed under the voice and write the mix; 3 when a target was missed."""
    out = Path(options.out)
    ending = Encoding.for_path(out, options.depth, options.bitrate, options.vbr).container
    settings: BedSettings = BedSettings.from_params(given_settings(options))
    target = named_target(options.target) if options.target else None
    wish = file_wish(options, target, ending)
    voice, music = AudioFile(options.voice), AudioFile(options.bed)
    for heard in (voice, music):
        check_out(out, heard.path, options.force)
    source = spread(voice, wish.channels or music.info.channels)
    bed = hold_bed(music, source.info.sample_rate_hz, source.info.channels)
    plan = plan_bed(measure_voice(source), bed, settings)
    order = Order(
        mix_chain(),
        wish.encoding(),
        target_of_mix(target, wish) if target else None,
        wish.sample_rate_hz,
        wish.channels,
        depth_for(voice.format, ending),
        checked_tags(tags_given(options.tag)),
        cover_of(options.cover),
    )
    mix = MixSource(source, plan)
    with ProgressLine(mix.info.duration_s, options.quiet, options.verbose) as line:
        made = deliver(mix, order, out, progress=line.show, work_folder=out.parent)
    _tell(options, voice, music, plan, made)
    if target and not options.quiet and (left_out := not_asked(target)):
        print(f"note: not asked of a mix: {', '.join(left_out).lower()}", file=sys.stderr)
    return MISSED if made.is_missed else DONE


def _tell(
    options: argparse.Namespace, voice: AudioFile, music: AudioFile, plan: BedPlan, made: Delivered
) -> None:
    distance = distance_of(plan)
    name = Path(options.out).name
    if options.json:
        told: dict[str, Any] = {
            "in": voice.name,
            "bed": {"name": music.name, "params": plan.settings.as_params()},
            "out": name,
            "engine_version": ENGINE_VERSION,
            "voice_over_bed_db": {k: distance[f"{k}_db"] for k in ("typical", "least")},
            "steps": [point.as_json() for point in made.result.points],
            "after": made.file.as_json() | UNKNOWN_OF_MIX,
            "check": [rule.as_json() for rule in made.rules],
            "notes": list(made.notes),
            "clipped_samples": made.clipped_samples,
        }
        print(json.dumps(told, indent=2))
        return
    if options.quiet:
        return
    print(f"{name}: {voice.name} over {music.name}")
    print(
        f"voice over the bed: {shown(distance['typical_db'], 'dB')} while it speaks, "
        f"{shown(distance['least_db'], 'dB')} and more for nine tenths of the words"
    )
    loudness, peak = made.file.integrated_lufs, made.file.true_peak_dbtp
    print(f"mix: {shown(loudness, 'LUFS')}, {shown(peak, 'dBTP')}")
    for rule in made.rules:
        if rule.is_met is not True:
            print(f"missed: {rule.label.lower()} {rule.got}, wanted {rule.wanted}")
    for note in made.notes:
        print(f"note: {note}", file=sys.stderr)
    if made.clipped_samples:
        print(
            f"note: {made.clipped_samples} samples above full scale were cut off", file=sys.stderr
        )
