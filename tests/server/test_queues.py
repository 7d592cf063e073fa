"""Who has to wait for whom: figures before results, one recording before a batch."""

from __future__ import annotations

import json

import pytest
from django_tasks_db.models import DBTaskResult

from zesty_server.jobs.waiting import BATCHES, MEASURING, waiting_in
from zesty_server.recordings.models import Recording
from zesty_server.runs.models import Run
from zesty_server.runs.tasks import do_run


@pytest.fixture
def queued(settings, recording):
    """From here on, work waits for a worker that never comes; what it would take, in order."""
    backend = {"BACKEND": "django_tasks_db.DatabaseBackend", "QUEUES": list(settings.QUEUES)}
    settings.TASKS = {"default": backend}

    def names():
        rows = DBTaskResult.objects.ready()
        made = {str(r.pk): r.recording.name for r in Run.objects.select_related("recording")}
        made |= {str(r.pk): r.name for r in Recording.objects.all()}
        return [
            (row.task_path.rsplit(".")[-1], made[row.args_kwargs["args"][0]])
            for row in rows.order_by(*DBTaskResult._meta.ordering)
        ]

    return names


def test_one_recording_does_not_wait_for_a_batch(api, recording, another, queued):
    steps = [{"type": "gain", "params": {"gain_db": -3}}]
    recipe = api("post", "recipes/", json.dumps({"name": "Down", "steps": steps})).json()["id"]
    order = {"recordings": [recording["id"]], "recipe": recipe}
    api("post", "batches/", json.dumps(order))
    api("post", f"recordings/{recording['id']}/apply-recipe/", json.dumps({"recipe": recipe}))
    api("post", "runs/", json.dumps({"recording": recording["id"]}))
    api.upload(another(7), "Neap tide.wav")
    assert queued() == [
        ("measure_recording", "Neap tide"),
        ("do_run", "Morning tide"),
        ("do_run", "Morning tide"),
    ]
    of_batch = [row.queue_name == BATCHES for row in DBTaskResult.objects.ready()]
    assert of_batch == [False, False, True]


def test_lost_work_is_queued_where_it_was(api, recording, queued, looking):
    order = {"recordings": [recording["id"]], "recipe": None}
    chain = {"steps": [{"type": "gain"}]}
    api("put", f"recordings/{recording['id']}/chain/", json.dumps(chain))
    api("post", "batches/", json.dumps(order))
    DBTaskResult.objects.all().delete()
    assert looking.after() == 1
    assert DBTaskResult.objects.get().queue_name == BATCHES


def test_a_queue_that_knows_no_priorities_is_told_none(settings):
    assert waiting_in(MEASURING, do_run).priority > 0
    settings.REDIS_URL = "redis://queue/0"
    task = waiting_in(MEASURING, do_run)
    assert (task.queue_name, task.priority) == (MEASURING, 0)
