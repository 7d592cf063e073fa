"""The app."""

from django.apps import AppConfig


class DeliveriesConfig(AppConfig):
    """Deliveries."""

    name = "zesty_server.deliveries"
    default_auto_field = "django.db.models.BigAutoField"
