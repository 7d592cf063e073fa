"""App configuration."""

from django.apps import AppConfig


class ComparisonsConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.comparisons"
