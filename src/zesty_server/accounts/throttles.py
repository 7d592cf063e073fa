"""How often a password may be tried."""

from __future__ import annotations

import hashlib

from rest_framework.request import Request
from rest_framework.throttling import SimpleRateThrottle
from rest_framework.views import APIView


class SignInThrottle(SimpleRateThrottle):
    """Ten tries a minute for each name, from wherever they come."""

    rate = "10/min"

    def get_cache_key(self, request: Request, view: APIView) -> str:
        """One count for each name, or for who is signed in."""
        if request.user is not None:
            return f"password-{request.user.pk}"
        name = request.data.get("name") if isinstance(request.data, dict) else None
        digest = hashlib.sha256(str(name).strip().lower().encode()).hexdigest()
        return f"sign-in-{digest}"
