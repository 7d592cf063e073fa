"""Where rows and queued work are kept, as named by the environment."""

from __future__ import annotations

import os
import subprocess
import sys
from importlib.machinery import ModuleSpec
from types import ModuleType
from unittest.mock import Mock

import pytest

from zesty_core.foundation.errors import BadInput
from zesty_server.config.backing import database, task_backend
from zesty_server.jobs.waiting import tasks_in_queue


@pytest.fixture
def installed(monkeypatch):
    """Pretend that these can be imported, with these names in them."""

    def pretend(**modules):
        for name, contents in modules.items():
            module = ModuleType(name)
            module.__spec__ = ModuleSpec(name, None)
            vars(module).update(contents)
            monkeypatch.setitem(sys.modules, name, module)

    return pretend


@pytest.fixture
def nothing_installed(monkeypatch):
    for name in ("dj_database_url", "psycopg", "django_tasks_rq"):
        monkeypatch.setitem(sys.modules, name, None)


def test_by_default_both_lie_in_the_data_folder(tmp_path):
    kept = database("", tmp_path)
    assert kept["ENGINE"].endswith("sqlite3")
    assert kept["NAME"].parent == tmp_path
    assert task_backend("", at_once=False) == "django_tasks_db.DatabaseBackend"
    assert "immediate" in task_backend("redis://queue/0", at_once=True)


def test_a_named_database_and_queue(installed, tmp_path):
    parse = Mock(return_value={"ENGINE": "postgresql", "NAME": "zesty"})
    installed(dj_database_url={"parse": parse}, psycopg={}, django_tasks_rq={})
    assert database("postgresql://zesty@db/zesty", tmp_path)["NAME"] == "zesty"
    # A connection that the database has closed meanwhile is opened anew.
    assert parse.call_args.kwargs["conn_health_checks"]
    for url in ("redis://queue/0", "rediss://queue/0", "unix:///run/redis"):
        assert task_backend(url, at_once=False) == "django_tasks_rq.RQBackend"


@pytest.mark.parametrize(
    ("url", "words"),
    [
        ("mysql://db/zesty", "DATABASE_URL: must begin with postgresql://, got mysql://"),
        ("postgresql://db/zesty", "dj_database_url is not installed; pip install -r requirements"),
    ],
)
def test_a_database_that_cannot_be(nothing_installed, tmp_path, url, words):
    with pytest.raises(BadInput, match=words):
        database(url, tmp_path)


def test_an_address_that_cannot_be_read(installed, tmp_path):
    installed(dj_database_url={"parse": Mock(side_effect=ValueError("no port"))}, psycopg={})
    with pytest.raises(BadInput, match="is no address of a database: no port"):
        database("postgresql://db:x/zesty", tmp_path)


@pytest.mark.parametrize(
    ("url", "words"),
    [
        ("amqp://queue", "REDIS_URL: must begin with redis://, rediss:// or unix://, got amqp"),
        ("redis://queue/0", "REDIS_URL: django_tasks_rq is not installed"),
    ],
)
def test_a_queue_that_cannot_be(nothing_installed, url, words):
    with pytest.raises(BadInput, match=words):
        task_backend(url, at_once=False)


def test_tasks_are_looked_for_in_their_queue(db, settings, installed):
    assert tasks_in_queue({"1", "2"}) == set()
    settings.REDIS_URL = "redis://queue/0"
    queue = Mock(get_job_ids=lambda: ["2", "3"])
    installed(django_rq={"get_queue": lambda name: queue})
    assert tasks_in_queue({"1", "2"}) == {"2"}


def test_a_queue_that_reads_the_settings_when_it_is_imported_does_not_cut_them_short(tmp_path):
    """As the real one does: Django would keep what had been read up to there."""
    queue = "from django.conf import settings\nurl = getattr(settings, 'REDIS_URL', '')\n"
    (tmp_path / "django_tasks_rq.py").write_text(queue)
    code = (
        "import zesty_server.config.settings, django_tasks_rq\n"
        "from django.conf import settings\n"
        "print(settings.QUEUES, django_tasks_rq.url)"
    )
    environment = {
        **os.environ,
        "REDIS_URL": "redis://queue/0",
        "ZESTY_DATA": str(tmp_path / "data"),
        "ZESTY_TASKS": "",
        "DJANGO_SETTINGS_MODULE": "zesty_server.config.settings",
        "PYTHONPATH": os.pathsep.join([str(tmp_path), *sys.path]),
    }
    read = subprocess.run(
        [sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=True
    )
    assert read.stdout.strip() == "('measuring', 'default', 'batches') redis://queue/0"
