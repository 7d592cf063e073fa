"""The app."""

from django.apps import AppConfig


class TargetsConfig(AppConfig):
    """Targets."""

    name = "zesty_server.targets"
    default_auto_field = "django.db.models.BigAutoField"
