"""App configuration."""

from django.apps import AppConfig


class BedsConfig(AppConfig):
    """Beds."""

    name = "zesty_server.beds"
    default_auto_field = "django.db.models.BigAutoField"
