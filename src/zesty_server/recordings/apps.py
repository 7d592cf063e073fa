"""App configuration."""

from django.apps import AppConfig


class RecordingsConfig(AppConfig):
    """Recordings."""

    name = "zesty_server.recordings"

    def ready(self) -> None:
        """Announce measuring as background work."""
        from zesty_server.jobs.kinds import Kind, register_kind
        from zesty_server.recordings.models import Recording
        from zesty_server.recordings.queueing import enqueue_measuring

        wanted = Recording.objects.filter
        register_kind(Kind(Recording, enqueue_measuring, lambda: wanted(deleted_at=None)))
