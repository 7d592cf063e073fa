"""App configuration."""

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.accounts"
