"""Where rows and queued work are kept: in the data folder, or with servers that several machines share.

``DATABASE_URL`` names a PostgreSQL database, ``REDIS_URL`` a Redis queue. What they need is listed in
``requirements-studio.lock``; without them nothing of it is imported.
"""

from __future__ import annotations

from importlib import import_module
from importlib.util import find_spec
from pathlib import Path
from typing import Any

from zesty_core.foundation.errors import BadInput

_KEPT_OPEN_S = 60


def database(url: str, data: Path) -> dict[str, Any]:
    """The default database. Raises :class:`BadInput` for an address that names none."""
    if url:
        return _named_database(url)
    return {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": data / "zesty.sqlite3",
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;",
        },
        # Requests and workers are threads of several processes; a file database in tests too.
        "TEST": {"NAME": data / "test.sqlite3"},
    }


def _named_database(url: str) -> dict[str, Any]:
    scheme = url.partition("://")[0]
    if scheme not in ("postgres", "postgresql"):
        raise BadInput(f"DATABASE_URL: must begin with postgresql://, got {scheme}://")
    _check_installed("dj_database_url", "DATABASE_URL")
    _check_installed("psycopg", "DATABASE_URL")
    parser = import_module("dj_database_url")
    try:
        return dict(parser.parse(url, conn_max_age=_KEPT_OPEN_S, conn_health_checks=True))
    except ValueError as fault:
        raise BadInput(f"DATABASE_URL: is no address of a database: {fault}") from None


def task_backend(url: str, at_once: bool) -> str:
    """Class of the queue; ``at_once`` does the work where it is asked for.

    Raises :class:`BadInput` for an address that names none.
    """
    if at_once:
        return "django_tasks.backends.immediate.ImmediateBackend"
    if not url:
        return "django_tasks_db.DatabaseBackend"
    scheme = url.partition("://")[0]
    if scheme not in ("redis", "rediss", "unix"):
        raise BadInput(
            f"REDIS_URL: must begin with redis://, rediss:// or unix://, got {scheme}://"
        )
    _check_installed("django_tasks_rq", "REDIS_URL")
    return "django_tasks_rq.RQBackend"


def _check_installed(module: str, setting: str) -> None:
    """Without importing it: what builds on Django reads the settings, which are only being read."""
    if find_spec(module) is None:
        raise BadInput(
            f"{setting}: {module} is not installed; pip install -r requirements-studio.lock"
        )
