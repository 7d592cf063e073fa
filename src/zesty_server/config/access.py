"""Who may come in: one person on this machine, from this application's own pages only."""

from __future__ import annotations

from django.http import HttpResponseBase
from rest_framework.authentication import BaseAuthentication, CSRFCheck
from rest_framework.exceptions import PermissionDenied
from rest_framework.request import Request


def _no_view(*_: object) -> HttpResponseBase:
    """Stands where the check wants a view; it only looks whether that is exempt."""
    raise NotImplementedError


class LocalAccess(BaseAuthentication):
    """No login, but the cross-site check that the framework would skip without one."""

    def authenticate(self, request: Request) -> None:
        """Refuse a change that does not carry the page's token."""
        check = CSRFCheck(lambda _: None)  # type: ignore[arg-type]
        check.process_request(request._request)
        reason = check.process_view(request._request, _no_view, (), {})
        if reason:
            raise PermissionDenied("This request did not come from the application's own page.")
