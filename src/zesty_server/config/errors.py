"""Every error as one JSON shape: ``{"error": {"code", "message", "path"}}``."""

from __future__ import annotations

import errno
import logging
from math import ceil
from typing import Any

from django.http import HttpRequest, JsonResponse
from rest_framework import exceptions, status
from rest_framework.response import Response
from rest_framework.views import exception_handler

from zesty_core.errors import BadInput, ZestyError

_log = logging.getLogger(__name__)


def error_shape(code: str, message: str, path: str | None = None) -> dict[str, Any]:
    """The one shape."""
    return {"error": {"code": code, "message": message, "path": path}}


def answer_error(error: Exception, context: dict[str, Any]) -> Response:
    """Turn any exception of a view into an answer; nobody sees a traceback."""
    if isinstance(error, ZestyError):
        bad = isinstance(error, BadInput)
        return Response(
            {"error": error.as_json()},
            status.HTTP_400_BAD_REQUEST if bad else status.HTTP_409_CONFLICT,
        )
    if isinstance(error, OSError) and error.errno == errno.ENOSPC:
        message = "The disk is full. Nothing was kept; make room and try again."
        return Response(error_shape("disk_full", message), status.HTTP_507_INSUFFICIENT_STORAGE)
    answer = exception_handler(error, context)
    if answer is None:
        _log.exception("unexpected error", exc_info=error)
        message = "Something went wrong in the server. The recording is safe; try again."
        return Response(error_shape("failed", message), status.HTTP_500_INTERNAL_SERVER_ERROR)
    path, message = _first_fault(getattr(error, "detail", str(error)))
    code = "not_found" if answer.status_code == 404 else "bad_request"
    if code == "not_found":
        message = "There is nothing here (any more); it may have been deleted."
    if isinstance(error, exceptions.PermissionDenied):
        code = "refused"
    if isinstance(error, exceptions.NotAuthenticated):
        code, message = "sign_in", "Sign in first."
    if isinstance(error, exceptions.Throttled):
        code, message = (
            "refused",
            f"Too many tries. Wait {ceil(getattr(error, 'wait', None) or 60)} s.",
        )
    answer.data = error_shape(code, message, path)
    return answer


def _first_fault(detail: Any, path: str = "") -> tuple[str | None, str]:
    """Field and text of the first fault in the framework's nested lists."""
    if isinstance(detail, dict):
        key, inner = next(iter(detail.items()))
        own = "" if key in ("detail", "non_field_errors") else str(key)
        return _first_fault(inner, f"{path}.{own}".strip("."))
    if isinstance(detail, list):
        return _first_fault(detail[0], path)
    return (path or None), f"{path}: {detail}" if path else str(detail)


def csrf_failure(request: HttpRequest, reason: str = "") -> JsonResponse:
    """Answer of the cross-site check."""
    return JsonResponse(
        error_shape("refused", "This request did not come from the page."), status=403
    )
