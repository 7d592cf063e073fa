"""Who may come in: one person on this machine, or who has signed in where accounts are on; from this
application's own pages only."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.conf import settings
from django.http import HttpResponseBase
from rest_framework.authentication import BaseAuthentication, CSRFCheck
from rest_framework.exceptions import PermissionDenied
from rest_framework.permissions import BasePermission
from rest_framework.request import Request

if TYPE_CHECKING:  # the framework reads this module while it loads those
    from django.contrib.auth.models import AbstractBaseUser
    from rest_framework.views import APIView


def _no_view(*_: object) -> HttpResponseBase:
    """Stands where the check wants a view; it only looks whether that is exempt."""
    raise NotImplementedError


class PageAccess(BaseAuthentication):
    """Who is signed in, if anybody, and the cross-site check that the framework would skip without."""

    def authenticate(self, request: Request) -> tuple[AbstractBaseUser, None] | None:
        """Refuse a change that does not carry the page's token."""
        check = CSRFCheck(lambda _: None)  # type: ignore[arg-type]
        check.process_request(request._request)
        reason = check.process_view(request._request, _no_view, (), {})
        if reason:
            raise PermissionDenied("This request did not come from the application's own page.")
        user = request._request.user if settings.ACCOUNTS else None
        return (user, None) if user is not None and user.is_authenticated else None

    def authenticate_header(self, request: Request) -> str:
        """Named in the answer to who is not signed in, which is 401 then."""
        return "Session"


class SignedIn(BasePermission):
    """Everybody where accounts are off."""

    def has_permission(self, request: Request, view: APIView) -> bool:
        """Whether somebody is signed in, or need not be."""
        return not settings.ACCOUNTS or request.user is not None
