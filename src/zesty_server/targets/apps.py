"""App configuration."""

from django.apps import AppConfig


class TargetsConfig(AppConfig):
    """Targets."""

    name = "zesty_server.targets"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Give every new account targets to start from; keep music that targets need."""
        from zesty_server.accounts.signals import account_added
        from zesty_server.beds.signals import bed_removal
        from zesty_server.targets.end_pieces import refuse_if_in_use
        from zesty_server.targets.services import add_starters

        account_added.connect(add_starters)
        bed_removal.connect(refuse_if_in_use)
