"""Arguments of ``zesty mix``; those of the bed derive from its settings' declaration."""

from __future__ import annotations

import argparse
from typing import Any

from zesty_cli.file_options import add_file_options
from zesty_cli.output_options import add_output_options
from zesty_core.bed.settings import BedSettings


def add_mix_parser(commands: Any) -> None:
    """Declare the command."""
    mix: argparse.ArgumentParser = commands.add_parser(
        "mix",
        help="lay a finished voice over music that dips while it speaks",
        description="The bed repeats where it is too short and fades out at the end. The mix is "
        "limited at -1 dBTP, or set to the target.",
    )
    mix.add_argument("voice", metavar="VOICE", help="what zesty process or batch has made")
    mix.add_argument("out", metavar="OUT", help="a .wav, .flac, .mp3, .ogg or .opus file")
    mix.add_argument("--bed", required=True, metavar="FILE", help="the music, at most 15 min")
    for setting in BedSettings.describe():
        mix.add_argument(
            f"--{setting['name'].replace('_', '-')}",
            type=float,
            metavar=setting["unit"].upper(),
            help=f"{setting['help']} (usual: {setting['default']:g})",
        )
    mix.add_argument(
        "--target", metavar="NAME|FILE", help="what it must meet: a name, or a target document"
    )
    add_file_options(mix, "OUT")
    mix.add_argument(
        "--tag",
        metavar="NAME=TEXT",
        action="append",
        default=[],
        help="title, artist, album, genre, year, track or comment (may be given again)",
    )
    mix.add_argument("--cover", metavar="FILE", help="JPEG or PNG picture")
    add_output_options(mix)
    mix.add_argument("--force", action="store_true", help="replace OUT if it exists")


def given_settings(options: argparse.Namespace) -> dict[str, float]:
    """Settings of the bed among the arguments; the others take their defaults."""
    names = [setting["name"] for setting in BedSettings.describe()]
    return {name: value for name in names if (value := getattr(options, name)) is not None}
