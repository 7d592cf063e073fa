"""``zesty account``: who may sign in where ``ZESTY_ACCOUNTS`` is set."""

from __future__ import annotations

import argparse
import getpass
import sys
from typing import TYPE_CHECKING

from zesty_cli.serve import prepare_server
from zesty_core.foundation.errors import BadInput

if TYPE_CHECKING:  # reads the settings of a server
    from zesty_server.accounts.services import HandedOver


def account_command(options: argparse.Namespace) -> int:
    """Do it, and say so in one line."""
    prepare_server()
    if options.action == "list":
        _tell_all()
    else:
        print(_done(options.action, options.name))
    return 0


def _done(action: str, name: str) -> str:
    from zesty_server.accounts import services

    if action == "add":
        account = services.add_account(name, _password())
        return f"{account.username} can sign in."
    account = services.account_named(name)
    match action:
        case "password":
            services.set_password(account, _password())
            return f"{account.username} has another password, and is signed out everywhere."
        case "hand-over":
            return _handed_over(account.username, services.hand_over(account))
        case _:
            services.set_open(account, action == "open")
            return f"{account.username} is {'open' if account.is_active else 'closed'}."


def _handed_over(name: str, made: HandedOver) -> str:
    told = f"{name} was given {made.given} things."
    return f"{told} {made.left} stay with nobody: the name is taken." if made.left else told


def _tell_all() -> None:
    from zesty_server.accounts.selectors import accounts

    for account in accounts():
        print(account.username if account.is_active else f"{account.username} (closed)")


def _password() -> str:
    """Asked for twice on a terminal, else the first line that comes in."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    first = getpass.getpass("Password: ")
    if getpass.getpass("Once more: ") != first:
        raise BadInput("password: the two are not the same")
    return first
