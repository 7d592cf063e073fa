"""App configuration."""

from django.apps import AppConfig


class MixesConfig(AppConfig):
    """Mixes."""

    name = "zesty_server.mixes"

    def ready(self) -> None:
        """Announce mixes as background work."""
        from zesty_server.jobs.kinds import Kind, register_kind
        from zesty_server.mixes.models import Mix
        from zesty_server.mixes.services import enqueue_mix

        register_kind(Kind(Mix, enqueue_mix, Mix.objects.all, lambda mix: mix.home))
