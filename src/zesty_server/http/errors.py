"""Every error as one JSON shape: ``{"error": {"code", "message", "path"}}``."""

from __future__ import annotations

import errno
import logging
import sys
from math import ceil
from typing import Any

from django.core.exceptions import RequestDataTooBig, SuspiciousOperation
from django.db import DataError, OperationalError
from django.http import HttpRequest, JsonResponse
from rest_framework import exceptions, status
from rest_framework.response import Response
from rest_framework.views import exception_handler

from zesty_core.foundation.errors import BadInput, MissingFile, ZestyError
from zesty_server.jobs.outages import OUTAGE, drop_connection

_log = logging.getLogger(__name__)
_FULL = ("disk_full", "The disk is full. Nothing was kept; make room and try again.")
_AWAY = ("database_away", "The database cannot be reached. Try again in a moment.")
#: Faults of a request that show only deep inside, and files that have vanished.
_KNOWN: tuple[tuple[type[Exception] | tuple[type[Exception], ...], str, str, int], ...] = (
    (
        RequestDataTooBig,
        "bad_request",
        "The request is larger than what is taken in.",
        status.HTTP_413_REQUEST_ENTITY_TOO_LARGE,
    ),
    (
        (SuspiciousOperation, DataError, OverflowError, RecursionError, UnicodeEncodeError),
        "bad_request",
        "The request holds a value that is too large or cannot be kept.",
        status.HTTP_400_BAD_REQUEST,
    ),
    (
        FileNotFoundError,
        "missing_file",
        "Its file is gone from the data folder. Run the chain again, or bring the recording in again.",
        status.HTTP_404_NOT_FOUND,
    ),
)


def error_shape(code: str, message: str, path: str | None = None) -> dict[str, Any]:
    """The one shape."""
    return {"error": {"code": code, "message": message, "path": path}}


def answer_error(error: Exception, context: dict[str, Any]) -> Response:
    """Turn any exception of a view into an answer; nobody sees a traceback."""
    if isinstance(error, ZestyError):
        return Response({"error": error.as_json()}, _status_of(error))
    for kinds, code, message, number in _KNOWN:
        if isinstance(error, kinds):
            return Response(error_shape(code, message), number)
    if _is_full(error):
        return Response(error_shape(*_FULL), status.HTTP_507_INSUFFICIENT_STORAGE)
    if isinstance(error, OUTAGE):
        _log.warning("the database is away: %s", error)
        drop_connection()
        return Response(error_shape(*_AWAY), status.HTTP_503_SERVICE_UNAVAILABLE)
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


def _status_of(error: ZestyError) -> int:
    if isinstance(error, MissingFile):
        return status.HTTP_404_NOT_FOUND
    return status.HTTP_400_BAD_REQUEST if isinstance(error, BadInput) else status.HTTP_409_CONFLICT


def _is_full(error: Exception) -> bool:
    """Whether the disk, or the database on it, takes no more."""
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    return isinstance(error, OperationalError) and (
        "is full" in str(error) or "No space left" in str(error)
    )


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


def unexpected(request: HttpRequest) -> JsonResponse:
    """Answer to what fails outside of views: on the way to them, or in a page."""
    error = sys.exc_info()[1]
    answer = answer_error(error if isinstance(error, Exception) else Exception(), {})
    return JsonResponse(answer.data, status=answer.status_code)
