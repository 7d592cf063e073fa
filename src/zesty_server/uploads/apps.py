"""App configuration."""

from django.apps import AppConfig


class UploadsConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.uploads"
