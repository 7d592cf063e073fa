"""Arguments about what a command prints."""

from __future__ import annotations

import argparse


def add_output_options(parser: argparse.ArgumentParser) -> None:
    """``--json``, and either ``--quiet`` or ``--verbose``."""
    parser.add_argument("--json", action="store_true", help="print JSON")
    talk = parser.add_mutually_exclusive_group()
    talk.add_argument("--quiet", action="store_true", help="print nothing but errors")
    talk.add_argument(
        "--verbose",
        action="store_true",
        help="print each part of the work with its time, and the cause of an error",
    )
