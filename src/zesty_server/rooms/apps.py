"""App configuration."""

from django.apps import AppConfig


class RoomsConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.rooms"
