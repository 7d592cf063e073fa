"""Preferences as JSON."""

from __future__ import annotations

from rest_framework import serializers

from zesty_server.preferences.models import Preferences


class PreferencesSerializer(serializers.ModelSerializer[Preferences]):
    """What new recordings begin with."""

    class Meta:
        model = Preferences
        fields = ("recipe", "run_at_once", "target")
