"""Arguments of ``zesty serve``, ``zesty demo`` and ``zesty worker``."""

from __future__ import annotations

import argparse
from typing import Any


def add_serve_parsers(commands: Any) -> None:
    """Declare the commands."""
    serve = commands.add_parser("serve", help="serve the application on this machine")
    demo = commands.add_parser("demo", help="load the demo recordings, then serve")
    worker = commands.add_parser("worker", help="work on queued runs without serving pages")
    for parser in (serve, demo):
        parser.add_argument("--port", type=int, default=8765, help="where (usual: 8765)")
        parser.add_argument(
            "--host",
            default="127.0.0.1",
            metavar="ADDRESS",
            help="address to answer at (usual: 127.0.0.1, this machine only); others need "
            "ZESTY_ACCOUNTS, and their names in ZESTY_HOSTS",
        )
    for parser in (serve, demo, worker):
        _add_workers(parser)
    demo.add_argument(
        "--samples", metavar="DIR", help="folder of the demo recordings (usual: they are made)"
    )


def _add_workers(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--workers", type=int, default=2, metavar="N", help="jobs at a time (usual: 2)"
    )
