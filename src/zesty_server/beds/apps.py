"""The app."""

from django.apps import AppConfig


class BedsConfig(AppConfig):
    """Beds."""

    name = "zesty_server.beds"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Announce mixes as background work."""
        from zesty_server.beds.mixes import enqueue_mix
        from zesty_server.beds.models import Mix
        from zesty_server.jobs.kinds import Kind, register_kind

        register_kind(Kind(Mix, enqueue_mix, Mix.objects.all, lambda mix: mix.home))
