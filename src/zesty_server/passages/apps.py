"""App configuration."""

from django.apps import AppConfig

from zesty_core.runtime.allocator import keep_freed_memory


class PassagesConfig(AppConfig):
    """Passages come one after the other, each as large as the last."""

    name = "zesty_server.passages"

    def ready(self) -> None:
        """Once per process."""
        keep_freed_memory()
