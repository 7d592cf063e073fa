"""What every row that belongs to somebody carries."""

from __future__ import annotations

from typing import ClassVar

from django.conf import settings
from django.db import models

from zesty_server.accounts.owning import OwnedManager, owner_of_new_rows


class Owned(models.Model):
    """Abstract row with an owner of its own; None where accounts are off.

    Rows that are parts of another (a run of a recording) carry none: they name the way to their
    owner in ``owned_by`` and take the same manager.
    """

    owned_by: ClassVar[str] = "owner"

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL,
        null=True,
        editable=False,
        on_delete=models.PROTECT,
        related_name="+",
        default=owner_of_new_rows,
    )
    objects = OwnedManager()

    class Meta:
        abstract = True


def one_of_a_name(kind: str, *fields: str) -> tuple[models.UniqueConstraint, ...]:
    """No two rows of one owner with the same ``fields``, nor of those that belong to nobody."""
    return (
        models.UniqueConstraint(fields=("owner", *fields), name=f"one_{kind}_for_each_owner"),
        models.UniqueConstraint(
            fields=fields, condition=models.Q(owner=None), name=f"one_{kind}_of_nobody"
        ),
    )


class SignInTries(models.Model):
    """Passwords that were tried lately, counted by what they have in common."""

    key = models.CharField(primary_key=True, max_length=64, help_text="Hash of what is counted.")
    count = models.PositiveIntegerField(default=0)
    last_at = models.DateTimeField(null=True)
    is_known = models.BooleanField(
        default=False, help_text="Somebody has signed in by this name from this address."
    )

    class Meta:
        indexes = (models.Index(fields=("last_at",), name="sign_in_tries_age"),)

    def __str__(self) -> str:
        return self.key
