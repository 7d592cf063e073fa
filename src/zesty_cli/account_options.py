"""Arguments of ``zesty account``."""

from __future__ import annotations

from typing import Any

_WORDS = {
    "add": "make one; the first takes over what is there already",
    "password": "set another password",
    "close": "let nobody in under this name any more; what is theirs stays",
    "open": "let them in again",
    "hand-over": "give it what was made while accounts were off",
}


def add_account_parser(commands: Any) -> None:
    """Declare the command."""
    account = commands.add_parser("account", help="accounts of a shared installation")
    actions = account.add_subparsers(dest="action", required=True, metavar="ACTION")
    actions.add_parser("list", help="name all")
    for action, words in _WORDS.items():
        actions.add_parser(action, help=words).add_argument("name", metavar="NAME")
