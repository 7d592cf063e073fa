"""``zesty``: entry point, arguments, exit codes.

Exit codes: 0 done, 1 failed, 2 bad use or bad input, 3 done but the target was missed. Heavy modules
are imported by the command that needs them, so that ``zesty --help`` answers at once.
"""

from __future__ import annotations

import argparse
import gc
import sys
from collections.abc import Sequence
from importlib import import_module

from zesty_cli.account_options import add_account_parser
from zesty_cli.batch_options import add_batch_parser
from zesty_cli.completion import add_completion_parser, completion_command
from zesty_cli.mix_options import add_mix_parser
from zesty_cli.recipe_options import add_recipe_parser
from zesty_cli.serve_options import add_serve_parsers
from zesty_cli.sound_options import (
    add_measure_parser,
    add_process_parser,
    add_propose_parser,
    add_speakers_parser,
)
from zesty_core import __version__
from zesty_core.foundation.errors import BadInput, ZestyError
from zesty_core.runtime.allocator import keep_freed_memory

DONE, FAILED, BAD_USE = 0, 1, 2
#: Commands that read sound; with recipes, all that need no server. Each has a module of its name.
_ON_SOUND = ("measure", "speakers", "propose", "process", "batch", "mix")
_ON_FILES = (*_ON_SOUND, "recipe")
#: What a command leaves behind that is stopped half way.
_LEFT = {"batch": "What is delivered stays; the same command goes on from there."}
#: New objects between two searches for unused ones. Loading makes a hundred thousand that all stay;
#: with the usual 700 a tenth of a short command's time goes into looking through them.
_OBJECTS_BETWEEN_SEARCHES = 50_000


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="zesty", description="Process recorded voice offline, without touching the original."
    )
    parser.add_argument("--version", action="version", version=f"zesty {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    add_measure_parser(commands)
    add_speakers_parser(commands)
    add_propose_parser(commands)
    add_process_parser(commands)
    add_batch_parser(commands)
    add_mix_parser(commands)
    add_recipe_parser(commands)
    add_serve_parsers(commands)
    add_account_parser(commands)
    add_completion_parser(commands)
    commands.add_parser("warm-up", help="compile the processing kernels ahead of their first use")
    return parser


def run() -> int:
    """The console script."""
    gc.set_threshold(_OBJECTS_BETWEEN_SEARCHES)
    if len(sys.argv) > 1 and sys.argv[1] in _ON_SOUND:
        from zesty_cli.library_output import silence_libraries

        silence_libraries()
    code = main()
    # Nothing is looked for among what is still there: all of it goes with the program, and looking
    # takes a third of a second.
    gc.freeze()
    return code


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    options = _parser().parse_args(arguments)
    keep_freed_memory()
    try:
        return _run(options)
    except BadInput as error:
        return _failed(options, error, BAD_USE)
    except ZestyError as error:
        return _failed(options, error, FAILED)
    except KeyboardInterrupt:
        print(
            f"zesty: stopped. {_LEFT.get(options.command, 'Nothing was written.')}", file=sys.stderr
        )
        return FAILED
    except BrokenPipeError:
        return FAILED


def _failed(options: argparse.Namespace, error: ZestyError, code: int) -> int:
    """Print an error, and its causes where they are asked for."""
    print(f"zesty: {error.message}", file=sys.stderr)
    cause = error.__cause__ or error.__context__
    while cause is not None and getattr(options, "verbose", False):
        print(f"  because of {type(cause).__name__}: {cause}", file=sys.stderr)
        cause = cause.__cause__ or cause.__context__
    return code


def _run(options: argparse.Namespace) -> int:
    if options.command == "warm-up":
        from zesty_core.chain.warm_up import warm_up

        warm_up()
        return DONE
    if options.command == "completion":
        return completion_command(options, _parser())
    if options.command in _ON_SOUND and not getattr(options, "quiet", False):
        from zesty_cli.compiling import announce_compiling

        announce_compiling()
    name = options.command if options.command in (*_ON_FILES, "account") else "serve"
    command = getattr(import_module(f"zesty_cli.{name}"), f"{name}_command")
    return int(command(options))


if __name__ == "__main__":
    sys.exit(run())
