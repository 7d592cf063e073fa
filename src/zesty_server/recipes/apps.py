"""App configuration."""

from django.apps import AppConfig


class RecipesConfig(AppConfig):
    """Recipes."""

    name = "zesty_server.recipes"

    def ready(self) -> None:
        """Give every new account recipes to start from."""
        from zesty_server.accounts.signals import account_added
        from zesty_server.recipes.services import add_starters

        account_added.connect(add_starters)
