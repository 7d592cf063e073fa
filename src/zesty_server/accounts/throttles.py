"""How often a password may be tried, over HTTP."""

from __future__ import annotations

from rest_framework.request import Request
from rest_framework.throttling import BaseThrottle
from rest_framework.views import APIView

from zesty_server.accounts.sign_in_tries import Try, wait_before


def try_of(request: Request) -> Try:
    """Whose password is tried, and from where."""
    address = str(request.META.get("REMOTE_ADDR") or "")
    if request.user is not None:
        return Try(f"account {request.user.pk}", address)
    name = request.data.get("name") if isinstance(request.data, dict) else None
    return Try(str(name).strip().lower(), address)


class SignInThrottle(BaseThrottle):
    """Makes tries wait when there are many."""

    _wait_s: float | None = None

    def allow_request(self, request: Request, view: APIView) -> bool:
        """Count the try, unless it has to wait."""
        self._wait_s = wait_before(try_of(request)) or None
        return self._wait_s is None

    def wait(self) -> float | None:
        """Seconds until the next try."""
        return self._wait_s
