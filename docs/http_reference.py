"""Writes the HTTP reference as Markdown from ``docs/openapi.json``, whenever the pages are built."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent
_METHODS = ("get", "post", "put", "patch", "delete")
_HEAD = """# HTTP

The page and every other client use these addresses. A cell names the schema of a body; *none*
means no body. Every error has one shape: `{"error": {"code", "message", "path"}}`. The whole
description, with all schemas:
{download}`openapi.json <../openapi.json>`.
"""


def write() -> None:
    """Write ``reference/http.md``."""
    described = json.loads((HERE / "openapi.json").read_text())
    parts = [_HEAD]
    groups: dict[str, list[str]] = {}
    for path, item in described["paths"].items():
        rows = groups.setdefault(path.split("/")[2], [])
        rows += [_row(path, method, item[method]) for method in _METHODS if method in item]
    for name, rows in groups.items():
        parts += [
            f"\n## {name.replace('-', ' ').capitalize()}\n",
            "| Request | What it does | Parameters | Body | Answer |",
            "|---|---|---|---|---|",
            *rows,
        ]
    (HERE / "reference" / "http.md").write_text("\n".join(parts) + "\n")


def _row(path: str, method: str, operation: dict[str, Any]) -> str:
    words = operation.get("description", "").strip().splitlines()
    queried = [p["name"] for p in operation.get("parameters", []) if p["in"] == "query"]
    good = next((a for code, a in operation["responses"].items() if code.startswith("2")), {})
    cells = (
        f"`{method.upper()} {path}`",
        words[0] if words else "",
        ", ".join(f"`{name}`" for name in queried) or "none",
        _content(operation.get("requestBody", {})),
        _content(good),
    )
    return "| " + " | ".join(cell.replace("|", "\\|") for cell in cells) + " |"


def _content(described: dict[str, Any]) -> str:
    found = [_schema(kind, c.get("schema", {})) for kind, c in described.get("content", {}).items()]
    return ", ".join(dict.fromkeys(found)) or "none"


def _schema(kind: str, schema: dict[str, Any]) -> str:
    if "$ref" in schema:
        return schema["$ref"].rsplit("/", 1)[1]
    if schema.get("type") == "array":
        return f"list of {_schema(kind, schema['items'])}"
    return kind if schema.get("format") == "binary" else schema.get("type", kind)
