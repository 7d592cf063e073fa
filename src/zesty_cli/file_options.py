"""Arguments that say what kind of file is made: the same for every command that makes one."""

from __future__ import annotations

import argparse

_LOWEST_RATE_HZ, _HIGHEST_RATE_HZ = 8_000, 192_000


def add_file_options(parser: argparse.ArgumentParser, made: str) -> None:
    """Declare them; ``made`` is what the help calls the file."""
    parser.add_argument("--depth", choices=("16", "24", "32f"), help="bits, for WAV and FLAC")
    parser.add_argument("--rate", type=_rate, metavar="HZ", help=f"sampling rate of {made}")
    parser.add_argument("--channels", type=int, choices=(1, 2), help=f"channels of {made}")
    parser.add_argument(
        "--bitrate", type=int, metavar="KBPS", help="for MP3, OGG and Opus (usual: by the format)"
    )
    parser.add_argument("--vbr", action="store_true", help="let the bitrate vary")


def _rate(text: str) -> int:
    if text.isdecimal() and _LOWEST_RATE_HZ <= int(text) <= _HIGHEST_RATE_HZ:
        return int(text)
    raise argparse.ArgumentTypeError(
        f"must be from {_LOWEST_RATE_HZ} to {_HIGHEST_RATE_HZ} Hz, got {text!r}"
    )
