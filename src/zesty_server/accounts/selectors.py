"""Reading accounts."""

from __future__ import annotations

from dataclasses import dataclass

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser, User
from django.db.models import QuerySet


@dataclass(frozen=True)
class Entry:
    """Whether one has to sign in, and who has."""

    accounts: bool
    name: str | None


def entry(user: AbstractBaseUser | AnonymousUser | None) -> Entry:
    """How things stand for whoever asks."""
    signed_in = user is not None and user.is_authenticated
    return Entry(settings.ACCOUNTS, user.get_username() if user and signed_in else None)


def accounts() -> QuerySet[User]:
    """All, by name."""
    return User.objects.order_by("username")
