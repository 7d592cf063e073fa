"""Work whose worker died, slept or lost its task: done once, by one, with nothing left over."""

from __future__ import annotations

import logging
import shutil

import pytest
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from zesty_core.chain.runner import Progress
from zesty_core.foundation.errors import Cancelled
from zesty_server.batches.models import Batch
from zesty_server.jobs import watch as watching
from zesty_server.jobs.attempts import Attempt, Outcome, work_on
from zesty_server.jobs.kinds import Kind
from zesty_server.jobs.models import MOST_TRIES, JobState
from zesty_server.jobs.services import claim
from zesty_server.jobs.watch import LEASE_S, LOOK_EVERY_S, LOST_AFTER_S
from zesty_server.recordings import services as recording_services
from zesty_server.recordings.models import Recording
from zesty_server.runs import services
from zesty_server.runs.models import Run


@pytest.fixture
def waiting(recording, db):
    """A run that waits, which no task stands for."""
    chain = [{"type": "gain", "params": {"gain_db": -3.0}}]
    return Run.objects.create(recording_id=recording["id"], chain=chain, engine_version="1")


@pytest.fixture
def queued(monkeypatch):
    """What is queued again, instead of being done at once."""
    ids = []
    kind = Kind(Run, ids.append, watching.kinds()[1].wanted, lambda run: run.home)
    assert watching.kinds()[1].model is Run
    monkeypatch.setattr(watching, "kinds", lambda: (kind,))
    return ids


def state_of(run):
    run.refresh_from_db()
    return run.state


def test_one_worker_has_it(waiting):
    assert claim(Run, waiting.pk).try_token
    assert claim(Run, waiting.pk) is None


def test_silent_work_is_taken_up_again_once(waiting, queued, looking):
    claim(Run, waiting.pk)
    watches = [looking.watch, watching.Watch(lambda: looking.now_s)]
    taken, waited_s = [w.look() for w in watches], 0.0
    while not any(taken):
        looking.now_s += LOOK_EVERY_S
        waited_s += LOOK_EVERY_S
        taken = [w.look() for w in watches]
    assert taken == [1, 0]
    assert LEASE_S <= waited_s <= LEASE_S + LOOK_EVERY_S
    assert queued == [waiting.pk]
    assert state_of(waiting) == JobState.WAITING


def test_work_that_beats_is_left_alone_however_long_it_takes(waiting, queued, looking):
    attempt = Attempt(claim(Run, waiting.pk))
    for _ in range(5):
        assert looking.after(LEASE_S - 1) == 0
        attempt.beat()


def test_a_machine_that_slept_lets_its_workers_go_on(waiting, queued, looking):
    attempt = Attempt(claim(Run, waiting.pk))
    assert looking.after(LEASE_S / 2) == 0
    looking.now_s += 3600
    assert looking.watch.look() == 0
    attempt.beat()
    assert looking.after(LEASE_S / 2) == 0
    assert looking.after(LEASE_S / 2 + 1) == 1


def test_a_wall_clock_that_jumps_changes_nothing(waiting, queued, looking, monkeypatch):
    claim(Run, waiting.pk)
    real = timezone.now()
    for hours in (-1, 1):
        jumped = real + timezone.timedelta(hours=hours)
        monkeypatch.setattr(timezone, "now", lambda jumped=jumped: jumped)
        assert looking.after(1.0) == 0
    assert looking.after() == 1


def test_work_that_is_lost_too_often_ends_and_leaves_nothing(waiting, queued, looking):
    Run.objects.filter(pk=waiting.pk).update(tries=MOST_TRIES - 1)
    job = claim(Run, waiting.pk)
    job.folder.mkdir(parents=True)
    assert looking.after() == 0
    assert state_of(waiting) == JobState.FAILED
    assert "3 times" in waiting.error
    assert queued == []
    assert not waiting.home.exists()


def test_a_lost_task_is_queued_again_while_the_queue_is_busy(waiting, queued, looking):
    task = DBTaskResult.objects.create(
        args_kwargs={"args": [], "kwargs": {}},
        task_path="zesty_server.runs.tasks.do_run",
        backend_name="default",
        run_after=timezone.now(),
        exception_class_path="",
        traceback="",
    )
    assert looking.after(LOST_AFTER_S - 1) == 0
    assert looking.after(LOST_AFTER_S + 1) == 1
    # One that is in the queue is not lost.
    Run.objects.filter(pk=waiting.pk).update(task_id=str(task.pk))
    assert looking.after() == 0
    assert queued == [waiting.pk]


def test_what_a_paused_batch_holds_back_is_not_lost(waiting, queued, looking):
    batch = Batch.objects.create(name="Held", paused=True)
    Run.objects.filter(pk=waiting.pk).update(batch=batch)
    assert looking.after() == 0
    # What was running when it was paused is looked after all the same.
    claim(Run, waiting.pk)
    assert looking.after() == 1
    Run.objects.filter(pk=waiting.pk).update(state=JobState.WAITING)
    Batch.objects.update(paused=False)
    assert looking.after(LOST_AFTER_S + 1) == 1


def stopped_in(run, looking, monkeypatch, moment):
    """Execute ``run``; at ``moment`` another worker takes it for dead and does all of it."""
    done = []

    def taken_over(*_):
        if not done:
            done.append(True)
            assert looking.after() == 1  # in tests, queued work is done at once
            run.refresh_from_db()
            done.append(contents(run.folder))

    moment(taken_over)
    services.execute_run(str(run.pk))
    assert done
    return done[1]


def contents(folder):
    return {path.name: path.read_bytes() for path in sorted(folder.iterdir())}


def at_progress(monkeypatch):
    def moment(act):
        original = Attempt.progress

        def progress(self, told):
            act()
            original(self, told)

        monkeypatch.setattr(Attempt, "progress", progress)

    return moment


def at_publishing(monkeypatch):
    def moment(act):
        original = Attempt.publish

        def publish(self, *arguments):
            act()
            return original(self, *arguments)

        monkeypatch.setattr(Attempt, "publish", publish)

    return moment


def before_its_folder(monkeypatch):
    def moment(act):
        original = services.decoded_audio

        def opened(*arguments):
            act()
            return original(*arguments)

        monkeypatch.setattr(services, "decoded_audio", opened)

    return moment


@pytest.mark.parametrize("moment", [before_its_folder, at_progress, at_publishing])
def test_a_stale_try_touches_nothing(waiting, looking, monkeypatch, caplog, moment):
    with caplog.at_level(logging.WARNING):
        whole = stopped_in(waiting, looking, monkeypatch, moment(monkeypatch))
    assert state_of(waiting) == JobState.DONE
    assert contents(waiting.folder) == whole
    assert {"result.wav", "pair.flac", "overview.npy"} <= set(whole)
    # Its own folder is gone, and the log tells.
    assert [path.name for path in waiting.home.iterdir()] == [str(waiting.try_token)]
    assert "was taken for dead" in caplog.text


def test_files_that_vanish_under_a_stale_try_are_no_failure(waiting, looking, monkeypatch):
    def vanishing(act):
        original = services.store_overview

        def store(path, bins):
            monkeypatch.setattr(services, "store_overview", original)
            act()
            shutil.rmtree(path.parent)
            raise FileNotFoundError(path)

        monkeypatch.setattr(services, "store_overview", store)

    stopped_in(waiting, looking, monkeypatch, vanishing)
    assert state_of(waiting) == JobState.DONE


def test_a_stale_measuring_touches_nothing(recording, looking, monkeypatch):
    row = Recording.objects.get(pk=recording["id"])
    cuts = [{"start_s": 0.0, "end_s": 1.0}]
    Recording.objects.filter(pk=row.pk).update(state=JobState.WAITING, tries=0, cuts=cuts)
    original, done = Attempt.is_current, []

    def is_current(attempt):
        if not done:
            done.append(True)
            assert looking.after() == 1
        return original(attempt)

    monkeypatch.setattr(Attempt, "is_current", is_current)
    recording_services.measure(str(row.pk))
    row.refresh_from_db()
    assert (row.state, row.tries) == (JobState.DONE, 2)
    assert row.measures["duration_s"] == pytest.approx(4.0)
    assert not list(row.folder.glob("*.part*"))


def test_work_ends_once_somebody_else_has_it(waiting, looking, queued):
    def work(job, attempt):
        assert looking.after() == 1
        attempt.progress(Progress(0.5, "half"))
        assert attempt.cancelled()
        raise Cancelled

    assert work_on(claim(Run, waiting.pk), work) is Outcome.DISMISSED
    assert state_of(waiting) == JobState.WAITING


def test_an_outage_of_the_database_is_nobodys_failure(waiting, monkeypatch):
    from django.db import OperationalError

    def work(job, attempt):
        raise OperationalError("the connection is closed")

    assert work_on(claim(Run, waiting.pk), work) is Outcome.RELEASED
    assert state_of(waiting) == JobState.WAITING
    assert waiting.tries == 0
