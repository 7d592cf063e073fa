"""Arguments of ``zesty measure`` and ``zesty process``."""

from __future__ import annotations

import argparse
from typing import Any

from zesty_cli.file_options import add_file_options
from zesty_cli.output_options import add_output_options
from zesty_core.foundation.speakers import MOST_SPEAKERS


def _span(text: str) -> tuple[float, float]:
    start, colon, end = text.partition(":")
    try:
        if colon:
            return float(start), float(end)
    except ValueError:
        pass
    raise argparse.ArgumentTypeError(f"must be START:END in seconds, got {text!r}")


def add_measure_parser(commands: Any) -> None:
    """Declare the command."""
    measure = commands.add_parser("measure", help="measure sound files")
    measure.add_argument(
        "files",
        metavar="FILE",
        nargs="+",
        help="a sound file (several may be given), or - for stdin",
    )
    measure.add_argument("--json", action="store_true", help="print JSON")
    measure.add_argument(
        "--room-tone",
        metavar="START:END",
        type=_span,
        help="read the noise floor from this span, in seconds",
    )


def add_speakers_parser(commands: Any) -> None:
    """Declare the command."""
    speakers = commands.add_parser("speakers", help="find who speaks when in a sound file")
    speakers.add_argument("file", metavar="FILE", help="a sound file, or - for stdin")
    speakers.add_argument(
        "--count",
        type=int,
        choices=range(1, MOST_SPEAKERS + 1),
        help="how many speak; found out otherwise",
    )
    speakers.add_argument(
        "--json", action="store_true", help="print JSON, as process --speakers reads it"
    )


def add_propose_parser(commands: Any) -> None:
    """Declare the command."""
    propose = commands.add_parser("propose", help="propose a chain made for a sound file")
    propose.add_argument("file", metavar="FILE", help="a sound file, or - for stdin")
    propose.add_argument(
        "--target", metavar="NAME|FILE", help="what the result has to meet: its name, or a document"
    )
    propose.add_argument(
        "--check",
        action="store_true",
        help="run the chain, look at what came of it, and correct it once",
    )
    propose.add_argument("--recipe", metavar="OUT", help="keep the chain as a recipe document")
    propose.add_argument("--force", action="store_true", help="replace that document")
    add_output_options(propose)


def add_process_parser(commands: Any) -> None:
    """Declare the command."""
    process = commands.add_parser("process", help="run a recipe on a sound file")
    process.add_argument("source", metavar="IN", help="a sound file, or - for stdin")
    process.add_argument(
        "out", metavar="OUT", help="a .wav, .flac, .mp3, .ogg or .opus file, or - for WAV to stdout"
    )
    process.add_argument(
        "--recipe", required=True, metavar="NAME|FILE", help="a recipe document, or one by its name"
    )
    process.add_argument(
        "--room-tone",
        metavar="START:END|FILE",
        action="append",
        default=[],
        help="learn the noise from this span, in seconds (may be given again), or from a sound "
        "file of the same room",
    )
    process.add_argument(
        "--cut",
        metavar="START:END",
        type=_span,
        action="append",
        default=[],
        help="leave this span out (may be given again)",
    )
    process.add_argument(
        "--mono",
        choices=("mean", "left", "right", "better"),
        help="make mono of a stereo recording before the chain; better: the clearer channel",
    )
    process.add_argument(
        "--speakers",
        metavar="FILE",
        help="who speaks when, as zesty speakers --json prints it, in times of what --cut leaves",
    )
    process.add_argument(
        "--repairs",
        metavar="FILE",
        help='events to leave alone and others to mend: JSON {"refused": [...], "added": [...]}, each '
        '{"type": "click", "start_s": 1.2, "end_s": 1.21}, in times of what --cut leaves',
    )
    add_file_options(process, "OUT")
    process.add_argument(
        "--tag",
        metavar="NAME=TEXT",
        action="append",
        default=[],
        help="title, artist, album, genre, year, track or comment (may be given again)",
    )
    process.add_argument(
        "--drop-tags",
        action="store_true",
        help="leave out tags and cover that IN came with; they are kept otherwise",
    )
    add_output_options(process)
    process.add_argument("--force", action="store_true", help="replace OUT if it exists")
