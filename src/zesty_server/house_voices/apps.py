"""App configuration."""

from django.apps import AppConfig


class HouseVoicesConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.house_voices"
