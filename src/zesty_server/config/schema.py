"""Access and errors in the API's description."""

from __future__ import annotations

from typing import Any

from drf_spectacular.extensions import OpenApiAuthenticationExtension


class PageAccessScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    """The page's own token, sent as a header with every change."""

    target_class = "zesty_server.config.access.PageAccess"
    name = "pageToken"

    def get_security_definition(self, auto_schema: object) -> dict[str, str]:
        """A header."""
        return {"type": "apiKey", "in": "header", "name": "X-CSRFToken"}


_ERROR: dict[str, Any] = {
    "type": "object",
    "required": ["error"],
    "properties": {
        "error": {
            "type": "object",
            "required": ["code", "message", "path"],
            "properties": {
                "code": {"type": "string", "description": "Stable, for programs."},
                "message": {"type": "string", "description": "What is wrong, for people."},
                "path": {
                    "type": "string",
                    "nullable": True,
                    "description": "The faulty field, where there is one.",
                },
            },
        }
    },
}


def add_error_answers(result: dict[str, Any], **_: Any) -> dict[str, Any]:
    """Every operation answers a fault in the one shape."""
    result.setdefault("components", {}).setdefault("schemas", {})["Error"] = _ERROR
    answer = {
        "description": "A fault, in one shape whatever it is.",
        "content": {"application/json": {"schema": {"$ref": "#/components/schemas/Error"}}},
    }
    for path in result["paths"].values():
        for operation in path.values():
            operation["responses"].setdefault("default", answer)
    return result
