"""Files over HTTP with byte ranges (RFC 9110, section 14), in pieces of at most 4 MiB.

A player that is paused would otherwise keep its connection open for the rest of the file, and a
browser has only six of them per server.
"""

from __future__ import annotations

import re
from pathlib import Path

from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase

MOST_BYTES = 4 * 1024 * 1024
#: No file has more bytes than 18 digits count; what asks for more is ignored, as RFC 9110 allows.
_RANGE = re.compile(r"^bytes=(\d{0,18})-(\d{0,18})$", re.ASCII)


def ranged_file(request: HttpRequest, path: Path, content_type: str) -> HttpResponseBase:
    """Answer GET and HEAD for a file; a single range gives 206, an impossible one 416."""
    stat = path.stat()
    etag = f'"{stat.st_mtime_ns:x}-{stat.st_size:x}"'
    headers = {"Accept-Ranges": "bytes", "ETag": etag, "Cache-Control": "private, no-cache"}
    if request.headers.get("If-None-Match") == etag:
        return HttpResponse(status=304, headers=headers)
    match = _RANGE.match(request.headers.get("Range", ""))
    if match is None or request.headers.get("If-Range", etag) != etag:
        return _whole(request, path, content_type, stat.st_size, headers)
    span = _span(match[1], match[2], stat.st_size)
    if span is None:
        headers["Content-Range"] = f"bytes */{stat.st_size}"
        return HttpResponse(status=416, headers=headers)
    start, stop = span
    headers["Content-Range"] = f"bytes {start}-{stop - 1}/{stat.st_size}"
    body = b""
    if request.method != "HEAD":
        with path.open("rb") as file:
            file.seek(start)
            body = file.read(stop - start)
    response = HttpResponse(body, status=206, content_type=content_type, headers=headers)
    response["Content-Length"] = str(stop - start)
    return response


def _span(first: str, last: str, size: int) -> tuple[int, int] | None:
    """First byte and the one after the last, cut to MOST_BYTES; None when impossible."""
    if not first and not last:
        return None
    if not first:
        start, stop = max(0, size - int(last)), size
    else:
        start = int(first)
        stop = min(size, int(last) + 1) if last else size
    if start >= size or stop <= start:
        return None
    return start, min(stop, start + MOST_BYTES)


def _whole(
    request: HttpRequest, path: Path, content_type: str, size: int, headers: dict[str, str]
) -> HttpResponseBase:
    if request.method == "HEAD":
        response: HttpResponseBase = HttpResponse(content_type=content_type, headers=headers)
        response["Content-Length"] = str(size)
        return response
    return FileResponse(path.open("rb"), content_type=content_type, headers=headers)
