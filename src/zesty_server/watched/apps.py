"""The app."""

from django.apps import AppConfig


class WatchedConfig(AppConfig):
    """Watched folders."""

    name = "zesty_server.watched"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Register passes over folders as background work, and the scan."""
        from zesty_server.jobs.kinds import Kind, register_kind
        from zesty_server.watched.models import WatchedFolder
        from zesty_server.watched.scanning import enqueue_folder, scan_folders

        register_kind(
            Kind(
                WatchedFolder,
                enqueue_folder,
                WatchedFolder.objects.all,
                start_overdue=scan_folders,
            )
        )
