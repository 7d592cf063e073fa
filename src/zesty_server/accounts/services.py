"""Making accounts, signing in and out."""

from __future__ import annotations

from dataclasses import dataclass

from django.apps import apps
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.http import HttpRequest

from zesty_core.foundation.errors import BadInput
from zesty_server.accounts.models import Owned
from zesty_server.accounts.owning import EVERYONE, seen_by
from zesty_server.accounts.signals import account_added

_MOST_IN_NAME = 150


@transaction.atomic
def add_account(name: str, password: str) -> User:
    """Make an account with recipes and targets to start from.

    The first one takes over what is there already: it was made by the one person who used this
    installation until now.

    Raises :class:`BadInput` for a name that is empty, too long or taken, or a password that is easy
    to guess.
    """
    name = name.strip()
    if not 0 < len(name) <= _MOST_IN_NAME or not name.isprintable():
        raise BadInput(f"name: must have 1 to {_MOST_IN_NAME} characters, got {name!r}")
    if User.objects.filter(username__iexact=name).exists():
        raise BadInput(f"name: {name} is taken by another account")
    first = not User.objects.exists()
    account = User(username=name)
    _set_password(account, password)
    account.save()
    if first:
        hand_over(account)
    with seen_by(account.pk):
        account_added.send(User)
    return account


@dataclass(frozen=True)
class HandedOver:
    """How many rows an account was given, and how many it has already under the same name."""

    given: int
    left: int


def hand_over(account: User) -> HandedOver:
    """Give an account all rows that belong to nobody, but for names that it has already."""
    kinds = [model for model in apps.get_models() if issubclass(model, Owned)]
    with seen_by(EVERYONE):
        taken = [_give(row, account) for kind in kinds for row in kind.objects.filter(owner=None)]
    return HandedOver(sum(taken), len(taken) - sum(taken))


def _give(row: Owned, account: User) -> bool:
    row.owner = account
    try:
        with transaction.atomic():
            row.save(update_fields=["owner"])
    except IntegrityError:
        return False
    return True


def account_named(name: str) -> User:
    """The account; raises :class:`BadInput` where there is none."""
    found = User.objects.filter(username__iexact=name.strip()).first()
    if found is None:
        raise BadInput(f"name: there is no account {name}")
    return found


def set_password(account: User, password: str) -> None:
    """Replace the password; every browser signed in with the old one has to sign in again."""
    _set_password(account, password)
    account.save()


def set_open(account: User, is_open: bool) -> None:
    """Let somebody in again, or no longer; what is theirs stays."""
    account.is_active = is_open
    account.save(update_fields=["is_active"])


def sign_in(request: HttpRequest, name: str, password: str) -> User:
    """Sign in; raises :class:`BadInput` without saying which of the two was wrong."""
    named = User.objects.filter(username__iexact=name.strip()).first()
    account = authenticate(request, username=named.username if named else name, password=password)
    if not isinstance(account, User):
        raise BadInput("Name and password do not go together, or the account is closed.")
    login(request, account)
    return account


def sign_out(request: HttpRequest) -> None:
    """Forget who was signed in."""
    logout(request)


def change_own_password(request: HttpRequest, old: str, new: str) -> None:
    """Replace the password of who is signed in, and stay signed in here."""
    account = getattr(request, "user", None)
    if not isinstance(account, User):
        raise BadInput("Nobody is signed in, so there is no password to change.")
    if not account.check_password(old):
        raise BadInput("old: is not the present password", path="old")
    try:
        set_password(account, new)
    except BadInput as fault:
        raise BadInput(fault.message, path="new") from None
    update_session_auth_hash(request, account)


def _set_password(account: User, password: str) -> None:
    try:
        validate_password(password, account)
    except ValidationError as fault:
        raise BadInput(f"password: {' '.join(fault.messages)}") from None
    account.set_password(password)
