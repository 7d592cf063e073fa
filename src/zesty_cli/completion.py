"""``zesty completion SHELL``: a script that completes commands and options by the Tab key."""

from __future__ import annotations

import argparse
from typing import Any

SHELLS = ("bash", "zsh", "fish")


def add_completion_parser(commands: Any) -> None:
    """Declare the command."""
    completion = commands.add_parser(
        "completion", help="print a script for the shell that completes commands and options"
    )
    completion.add_argument("shell", choices=SHELLS)


def completion_command(options: argparse.Namespace, parser: argparse.ArgumentParser) -> int:
    """Print the script."""
    import shtab

    print(shtab.complete(parser, options.shell))
    return 0
