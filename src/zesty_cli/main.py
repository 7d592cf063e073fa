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
from zesty_cli.file_options import add_file_options
from zesty_cli.mix_options import add_mix_parser
from zesty_core import __version__
from zesty_core.foundation.errors import BadInput, ZestyError
from zesty_core.runtime.allocator import keep_freed_memory

DONE, FAILED, BAD_USE = 0, 1, 2
#: Commands that read sound; with recipes, all that need no server. Each has a module of its name.
_ON_SOUND = ("measure", "process", "batch", "mix")
_ON_FILES = (*_ON_SOUND, "recipe")
#: What a command leaves behind that is stopped half way.
_LEFT = {"batch": "What is delivered stays; the same command goes on from there."}
#: New objects between two searches for unused ones. Loading makes a hundred thousand that all stay;
#: with the usual 700 a tenth of a short command's time goes into looking through them.
_OBJECTS_BETWEEN_SEARCHES = 50_000


def _span(text: str) -> tuple[float, float]:
    start, colon, end = text.partition(":")
    try:
        if colon:
            return float(start), float(end)
    except ValueError:
        pass
    raise argparse.ArgumentTypeError(f"must be START:END in seconds, got {text!r}")


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="zesty", description="Process recorded voice offline, without touching the original."
    )
    parser.add_argument("--version", action="version", version=f"zesty {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

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

    process = commands.add_parser("process", help="run a recipe on a sound file")
    process.add_argument("source", metavar="IN", help="a sound file, or - for stdin")
    process.add_argument(
        "out", metavar="OUT", help="a .wav, .flac, .mp3, .ogg or .opus file, or - for WAV to stdout"
    )
    process.add_argument(
        "--recipe", required=True, metavar="NAME|FILE", help="a recipe document, or one by its name"
    )
    process.add_argument("--quiet", action="store_true", help="print nothing but faults")
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
    process.add_argument("--json", action="store_true", help="print JSON")
    process.add_argument("--force", action="store_true", help="replace OUT if it exists")

    add_batch_parser(commands)
    add_mix_parser(commands)

    recipe = commands.add_parser("recipe", help="check, show or list recipes")
    recipe.add_argument("action", choices=("check", "show", "list"))
    recipe.add_argument(
        "file", metavar="NAME|FILE", nargs="?", help="a recipe document, or a recipe by its name"
    )

    serve = commands.add_parser("serve", help="serve the application on this machine")
    demo = commands.add_parser("demo", help="load the demo recordings, then serve")
    for parser_ in (serve, demo):
        parser_.add_argument("--port", type=int, default=8765, help="where (usual: 8765)")
        parser_.add_argument(
            "--workers", type=int, default=2, metavar="N", help="works at a time (usual: 2)"
        )
    demo.add_argument("--samples", metavar="DIR", help="folder of the demo recordings")
    add_account_parser(commands)
    worker = commands.add_parser("worker", help="work on queued runs without serving pages")
    worker.add_argument(
        "--workers", type=int, default=2, metavar="N", help="works at a time (usual: 2)"
    )
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
        print(f"zesty: {error.message}", file=sys.stderr)
        return BAD_USE
    except ZestyError as error:
        print(f"zesty: {error.message}", file=sys.stderr)
        return FAILED
    except KeyboardInterrupt:
        print(
            f"zesty: stopped. {_LEFT.get(options.command, 'Nothing was written.')}", file=sys.stderr
        )
        return FAILED
    except BrokenPipeError:
        return FAILED


def _run(options: argparse.Namespace) -> int:
    if options.command == "warm-up":
        from zesty_core.chain.warm_up import warm_up

        warm_up()
        return DONE
    name = options.command if options.command in (*_ON_FILES, "account") else "serve"
    command = getattr(import_module(f"zesty_cli.{name}"), f"{name}_command")
    return int(command(options))


if __name__ == "__main__":
    sys.exit(run())
