"""Arguments about what a command prints."""

from __future__ import annotations

import argparse


def add_output_options(parser: argparse.ArgumentParser, has_parts: bool = True) -> None:
    """``--json``, ``--quiet``, and ``--verbose`` where the work has parts that can be shown."""
    parser.add_argument("--json", action="store_true", help="print JSON")
    amount = parser.add_mutually_exclusive_group()
    amount.add_argument(
        "--quiet", action="store_true", help="print nothing but errors, and JSON where asked for"
    )
    if has_parts:
        amount.add_argument(
            "--verbose",
            action="store_true",
            help="print each part of the work with its time, and the cause of an error",
        )
