"""App configuration."""

from django.apps import AppConfig


class BatchesConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.batches"
