"""Accounts as JSON."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers


class EntrySerializer(serializers.Serializer[Any]):
    """Whether one has to sign in, and who has."""

    accounts = serializers.BooleanField(help_text="Whether one has to sign in here.")
    name = serializers.CharField(allow_null=True, help_text="Who is signed in; null for nobody.")


class SignInSerializer(serializers.Serializer[None]):
    """Name and password."""

    name = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=500, trim_whitespace=False)


class ChangePasswordSerializer(serializers.Serializer[None]):
    """The present password and the next."""

    old = serializers.CharField(max_length=500, trim_whitespace=False)
    new = serializers.CharField(max_length=500, trim_whitespace=False)
