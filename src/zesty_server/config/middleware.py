"""Headers on every answer."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase

#: Everything ships with the application; styles are inlined by the component library.
_POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "media-src 'self' blob:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)


class ContentSecurityMiddleware:
    """Forbids loading anything from elsewhere."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        """Add the header."""
        response = self._get_response(request)
        response.headers.setdefault("Content-Security-Policy", _POLICY)
        return response
