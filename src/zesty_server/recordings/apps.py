"""App configuration."""

from django.apps import AppConfig


class RecordingsConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.recordings"
