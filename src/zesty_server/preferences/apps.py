"""The app."""

from django.apps import AppConfig


class PreferencesConfig(AppConfig):
    """Preferences."""

    name = "zesty_server.preferences"
    default_auto_field = "django.db.models.BigAutoField"
