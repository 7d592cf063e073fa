"""The one page; everything on it is drawn by the front end."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_safe

from zesty_server.http.errors import error_shape

_MISSING = "The front end is not built. Run: make build"


@require_safe
@never_cache
@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """Index of the built front end, whatever the address: the router there takes over."""
    index = settings.WEB_BUILD / "index.html"
    if not index.exists():
        return HttpResponse(_MISSING, content_type="text/plain", status=503)
    return HttpResponse(index.read_bytes(), content_type="text/html; charset=utf-8")


def unknown_address(request: HttpRequest, **_: object) -> JsonResponse:
    """No such address in the API."""
    return JsonResponse(error_shape("not_found", f"There is nothing at {request.path}"), status=404)
