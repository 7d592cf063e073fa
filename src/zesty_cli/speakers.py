"""``zesty speakers``: who speaks when in one recording."""

from __future__ import annotations

import argparse
import json
from contextlib import ExitStack

from zesty_cli.standard_streams import opened
from zesty_core.foundation.speakers import Speakers
from zesty_core.measures.speaker_frames import SpeakerFramesMeter
from zesty_core.measures.speakers import find_speakers
from zesty_core.runtime.denormals import flushing_to_zero


def speakers_command(options: argparse.Namespace) -> int:
    """Find speakers and their turns."""
    with ExitStack() as stack, flushing_to_zero():
        file = opened(options.file, stack)
        meter = SpeakerFramesMeter(file.info)
        for block in file.blocks():
            meter.push(block)
        speakers = find_speakers(meter.finish(), options.count)
    if options.json:
        print(json.dumps(speakers.as_json(), indent=2))
    else:
        print("\n".join(_lines(file.name, speakers)))
    return 0


def _lines(name: str, speakers: Speakers) -> list[str]:
    count = len(speakers.names)
    lines = [f"{name}: {count} {'speaker' if count == 1 else 'speakers'}"]
    for number, speaker in enumerate(speakers.names):
        own = [turn.end_s - turn.start_s for turn in speakers.turns if turn.speaker == number]
        turns = f"{len(own)} {'turn' if len(own) == 1 else 'turns'}"
        lines.append(f"{speaker}: {sum(own):.1f} s in {turns}")
    for turn in speakers.turns:
        lines.append(f"{turn.start_s:>10.2f} {turn.end_s:>10.2f}  {speakers.names[turn.speaker]}")
    return lines
