"""What the API's description says about access."""

from drf_spectacular.extensions import OpenApiAuthenticationExtension


class PageAccessScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    """The page's own token, sent as a header with every change."""

    target_class = "zesty_server.config.access.PageAccess"
    name = "pageToken"

    def get_security_definition(self, auto_schema: object) -> dict[str, str]:
        """A header."""
        return {"type": "apiKey", "in": "header", "name": "X-CSRFToken"}
