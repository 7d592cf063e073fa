"""Requests whose body is a file."""

from __future__ import annotations

from rest_framework.parsers import BaseParser
from rest_framework.request import Request

from zesty_core.foundation.errors import BadInput


class RawParser(BaseParser):
    """Leaves the body alone, so that it can be streamed."""

    media_type = "*/*"

    def parse(self, stream, media_type=None, parser_context=None):  # type: ignore[no-untyped-def]
        """Return the stream itself."""
        return stream


def content_length(request: Request) -> int:
    """Bytes of the body, as its sender says; raises :class:`BadInput` for what is no number."""
    try:
        return int(request.META.get("CONTENT_LENGTH") or 0)
    except ValueError:
        raise BadInput("Content-Length: must be a number of bytes") from None
