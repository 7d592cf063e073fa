"""Work whose task got lost between the queue and its beginning; what a paused batch keeps waiting."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from zesty_server.batches.models import Batch
from zesty_server.jobs import abandoned
from zesty_server.jobs.services import take_up_forgotten
from zesty_server.runs.models import Run


@pytest.fixture
def waiting(recording, db):
    """A run that waits for longer than a lease, which no task stands for."""
    run = Run.objects.create(
        recording_id=recording["id"], chain=[{"type": "gain"}], engine_version="1"
    )
    Run.objects.filter(pk=run.pk).update(created_at=timezone.now() - timedelta(minutes=5))
    return run


def test_forgotten_work_is_queued_again(waiting):
    queued = []
    assert take_up_forgotten(Run.objects.all(), queued.append) == 1
    assert queued == [waiting.pk]


def test_young_work_and_work_with_tasks_before_it_is_left_alone(waiting):
    queued = []
    DBTaskResult.objects.create(
        args_kwargs={"args": [], "kwargs": {}},
        task_path="zesty_server.runs.tasks.do_run",
        backend_name="default",
        run_after=timezone.now(),
        exception_class_path="",
        traceback="",
    )
    assert take_up_forgotten(Run.objects.all(), queued.append) == 0
    DBTaskResult.objects.all().delete()
    Run.objects.filter(pk=waiting.pk).update(created_at=timezone.now())
    assert take_up_forgotten(Run.objects.all(), queued.append) == 0
    assert queued == []


def test_what_a_paused_batch_holds_back_is_not_forgotten(waiting, monkeypatch):
    queued = []
    monkeypatch.setattr(abandoned, "_run", queued.append)
    batch = Batch.objects.create(name="Held", paused=True)
    Run.objects.filter(pk=waiting.pk).update(batch=batch)
    abandoned.take_up_all_abandoned()
    assert queued == []
    Batch.objects.update(paused=False)
    abandoned.take_up_all_abandoned()
    assert queued == [waiting.pk]
