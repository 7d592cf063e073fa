"""Bodies of requests that are JSON."""

from __future__ import annotations

from collections.abc import Mapping
from typing import IO, Any

from django.conf import settings
from rest_framework.exceptions import ParseError
from rest_framework.parsers import BaseParser
from rest_framework.request import Request

from zesty_core.foundation.documents import parse_document
from zesty_core.foundation.errors import BadInput


class JsonParser(BaseParser):
    """JSON of bounded size, nesting and numbers."""

    media_type = "application/json"

    def parse(
        self,
        stream: IO[bytes],
        media_type: str | None = None,
        parser_context: Mapping[str, Any] | None = None,
    ) -> Any:
        """The value; an empty body is an empty object, as a form without fields is."""
        most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
        text = stream.read(most + 1)
        if len(text) > most:
            raise BadInput(f"The request is larger than {most / 1e6:.1f} MB")
        try:
            return parse_document(text, "The request") if text.strip() else {}
        except BadInput as fault:
            # The framework asks again for what could not be parsed, unless it is answered its own way.
            raise ParseError(fault.message) from None


def posted_object(request: Request) -> dict[str, Any]:
    """Body of a request that must be a JSON object; raises :class:`BadInput` for all others."""
    if not isinstance(request.data, dict):
        raise BadInput("The request must be a JSON object")
    return dict(request.data)
