"""App configuration."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.jobs"
