"""App configuration."""

from django.apps import AppConfig


class PassagesConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.passages"
