"""Each request sees the rows of the account that is signed in, and no others."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.contrib.auth import get_user
from django.http import FileResponse, HttpRequest, HttpResponseBase, StreamingHttpResponse

from zesty_server.accounts.owning import NOBODY, parts_seen_by, seen_by


class AccountMiddleware:
    """Does nothing where accounts are off."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        """Answer as the account sees things, to the last part of an answer that comes in parts."""
        if not settings.ACCOUNTS:
            return self._get_response(request)
        request.user = get_user(request)
        account_id = request.user.pk or NOBODY
        with seen_by(account_id):
            response = self._get_response(request)
        if isinstance(response, StreamingHttpResponse) and not isinstance(response, FileResponse):
            parts = response.streaming_content
            response.streaming_content = parts_seen_by(account_id, parts)  # type: ignore[arg-type]
        return response
