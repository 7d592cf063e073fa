"""App configuration."""

from django.apps import AppConfig


class RunsConfig(AppConfig):
    """Runs."""

    name = "zesty_server.runs"

    def ready(self) -> None:
        """Register runs as background work, and with recordings.

        A run that a paused batch holds back is not lost.
        """
        from zesty_server.jobs.kinds import Kind, register_kind
        from zesty_server.jobs.models import JobState
        from zesty_server.recordings.selectors import add_to_list
        from zesty_server.recordings.signals import measured
        from zesty_server.runs.models import Run
        from zesty_server.runs.selectors import with_latest_run
        from zesty_server.runs.services import enqueue_run_of, run_when_measured, start_overdue

        register_kind(
            Kind(
                Run,
                enqueue_run_of,
                lambda: Run.objects.exclude(state=JobState.WAITING, batch__paused=True),
                lambda run: run.home,
                start_overdue,
            )
        )
        measured.connect(run_when_measured)
        add_to_list(with_latest_run)
