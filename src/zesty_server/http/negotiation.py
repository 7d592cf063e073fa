"""What kind of answer a request gets."""

from __future__ import annotations

from rest_framework.negotiation import BaseContentNegotiation


class AnyContent(BaseContentNegotiation):
    """Players ask for audio types; the answer is what it is."""

    def select_parser(self, request, parsers):  # type: ignore[no-untyped-def]
        """Take the first."""
        return parsers[0]

    def select_renderer(self, request, renderers, format_suffix=None):  # type: ignore[no-untyped-def]
        """Take the first."""
        return renderers[0], renderers[0].media_type
