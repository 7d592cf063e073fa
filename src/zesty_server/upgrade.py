"""Bringing the database up to date at the start; a copy of it is kept from before."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from contextlib import closing
from datetime import datetime
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.core.management import call_command
from django.db import DatabaseError, InterfaceError, connection
from django.db.migrations.executor import MigrationExecutor

from zesty_core import __version__
from zesty_core.foundation.errors import BadInput


def upgrade_database(say: Callable[[str], None]) -> None:
    """Apply what is missing.

    Raises
    ------
    BadInput
        The database cannot be used, or was last used by a newer version.
    """
    try:
        executor = MigrationExecutor(connection)
        _refuse_newer(executor)
        missing = executor.migration_plan(executor.loader.graph.leaf_nodes())
        if missing and executor.loader.applied_migrations and connection.vendor == "sqlite":
            say(f"The database was copied to {_copied()} before it is brought up to date.")
        if missing:
            call_command("migrate", verbosity=0)
    except (DatabaseError, InterfaceError) as fault:
        reason = str(fault).strip().partition("\n")[0]
        raise BadInput(f"The database cannot be used: {_name()}: {reason}") from None


def _name() -> str:
    where = connection.settings_dict
    return str(where["NAME"]) if connection.vendor == "sqlite" else f"{where['NAME']} in PostgreSQL"


def _refuse_newer(executor: MigrationExecutor) -> None:
    ours = {app.label for app in apps.get_app_configs() if app.name.startswith("zesty_server.")}
    unknown = sorted(
        f"{label} {name}"
        for label, name in executor.loader.applied_migrations
        if label in ours and (label, name) not in executor.loader.disk_migrations
    )
    if unknown:
        raise BadInput(
            f"The data in {settings.DATA} was last used by a newer Zesty Voice than {__version__} "
            f"({unknown[-1]} is unknown here); start that version, or name another folder in "
            "ZESTY_DATA"
        )


def _copied() -> Path:
    """A consistent copy of the SQLite file, beside it."""
    name = Path(connection.settings_dict["NAME"])
    copy = name.with_name(f"{name.stem}-before-{datetime.now():%Y%m%d-%H%M%S}.sqlite3")
    connection.ensure_connection()
    with closing(sqlite3.connect(copy)) as target:
        connection.connection.backup(target)
    return copy
