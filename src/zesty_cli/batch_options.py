"""Arguments of ``zesty batch``."""

from __future__ import annotations

import argparse
import os
from typing import Any

from zesty_cli.file_options import add_file_options
from zesty_cli.output_options import add_output_options


def add_batch_parser(commands: Any) -> None:
    """Declare the command."""
    batch: argparse.ArgumentParser = commands.add_parser(
        "batch",
        help="run a recipe over files and folders, towards a target",
        description="Files that were delivered already, by the same recipe and settings, are left "
        "as they are. A file that fails never stops the others.",
    )
    batch.add_argument("sources", metavar="IN", nargs="+", help="sound files, or folders of them")
    batch.add_argument(
        "--recipe", required=True, metavar="NAME|FILE", help="a recipe document, or one by its name"
    )
    batch.add_argument("--out", required=True, metavar="DIR", help="folder for the finished files")
    batch.add_argument(
        "--target", metavar="NAME|FILE", help="what they must meet: a name, or a target document"
    )
    _add_names(batch)
    batch.add_argument(
        "--format",
        choices=("wav", "flac", "mp3", "ogg", "opus"),
        help="kind of file (usual: the target's, else wav)",
    )
    add_file_options(batch, "the files")
    batch.add_argument(
        "--mono",
        choices=("mean", "left", "right", "better"),
        default="",
        help="make mono of stereo recordings before the chain",
    )
    batch.add_argument("--room-tone", metavar="FILE", help="sound file of the same room")
    batch.add_argument(
        "--set-level",
        choices=("alike", "keep"),
        default="alike",
        help="all at the target's level, or with the differences they were recorded with",
    )
    batch.add_argument(
        "--tag",
        metavar="NAME=TEXT",
        action="append",
        default=[],
        help="title, artist, album, genre, year, track or comment; may hold {title}, {number} "
        "and the other fields of names (may be given again)",
    )
    batch.add_argument(
        "--drop-tags",
        action="store_true",
        help="leave out tags and cover that files came with; they are kept otherwise",
    )
    batch.add_argument("--cover", metavar="FILE", help="JPEG or PNG picture for every file")
    _add_pieces(batch)
    batch.add_argument(
        "--workers",
        type=int,
        default=min(4, os.cpu_count() or 1),
        metavar="N",
        help="files at a time, each on a core of its own (usual: all cores, at most 4)",
    )
    batch.add_argument(
        "--watch", action="store_true", help="go on with what comes into the folders, until Ctrl+C"
    )
    add_output_options(batch, has_parts=False)


def _add_pieces(batch: argparse.ArgumentParser) -> None:
    batch.add_argument("--intro", metavar="FILE", help="sound file to begin every file with")
    batch.add_argument("--outro", metavar="FILE", help="sound file to end every file with")
    batch.add_argument(
        "--overlap",
        type=float,
        default=0.0,
        metavar="S",
        help="how far intro and outro lie over the voice, in seconds (usual: 0)",
    )
    batch.add_argument(
        "--piece-level",
        type=float,
        default=0.0,
        metavar="LU",
        help="how loud intro and outro are towards the voice (usual: 0, as loud)",
    )


def _add_names(batch: argparse.ArgumentParser) -> None:
    batch.add_argument(
        "--name",
        default="{title}",
        metavar="PATTERN",
        help="such as {show}-{number:02}-{title} (usual: {title})",
    )
    batch.add_argument("--show", default="", help="what {show} stands for in names")
