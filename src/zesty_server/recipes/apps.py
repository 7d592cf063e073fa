"""App configuration."""

from django.apps import AppConfig


class RecipesConfig(AppConfig):
    """Nothing beyond the defaults."""

    name = "zesty_server.recipes"
