"""App configuration."""

from django.apps import AppConfig


class RunsConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.runs"
