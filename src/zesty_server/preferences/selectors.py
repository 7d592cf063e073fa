"""Reading preferences."""

from __future__ import annotations

from zesty_server.accounts.owning import owner_of_new_rows
from zesty_server.preferences.models import Preferences


def preferences() -> Preferences:
    """As they are set; those of an untouched installation ask for nothing."""
    mine = Preferences.objects.filter(owner=owner_of_new_rows())
    return mine.select_related("recipe", "target").first() or Preferences()
