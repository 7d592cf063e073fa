"""Requests whose body is a file."""

from __future__ import annotations

from rest_framework.parsers import BaseParser


class RawParser(BaseParser):
    """Leaves the body alone, so that it can be streamed."""

    media_type = "*/*"

    def parse(self, stream, media_type=None, parser_context=None):  # type: ignore[no-untyped-def]
        """Return the stream itself."""
        return stream
