"""The app."""

from django.apps import AppConfig


class WatchedConfig(AppConfig):
    """Watched folders."""

    name = "zesty_server.watched"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Announce work on folders as background work, and looking into them."""
        from zesty_server.jobs.kinds import Kind, register_kind
        from zesty_server.watched.looking import enqueue_folder, look_at_folders
        from zesty_server.watched.models import WatchedFolder

        register_kind(
            Kind(
                WatchedFolder,
                enqueue_folder,
                WatchedFolder.objects.all,
                start_overdue=look_at_folders,
            )
        )
