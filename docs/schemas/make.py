"""Writes the JSON Schemas beside this file from the declarations in the code.

    .venv/bin/python docs/schemas/make.py

``recipe``, ``target`` and ``receipt`` describe documents; ``measures`` is what ``zesty measure --json``
prints for one file, ``processed`` what ``zesty process --json`` prints. They are JSON Schema 2020-12;
each ``$id`` ends with the version of the document.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from zesty_core.chain import recipe
from zesty_core.delivery import receipt
from zesty_core.foundation.settings import Declared, Setting
from zesty_core.steps.registry import STEP_TYPES
from zesty_core.targets import document as target

FOLDER = Path(__file__).parent
OPENAPI = FOLDER.parent / "openapi.json"
Schema = dict[str, Any]

TITLE: Schema = {"type": "string", "minLength": 1, "maxLength": 200}
TEXT: Schema = {"type": "string"}
NUMBER: Schema = {"type": "number"}
SHA256: Schema = {"type": "string", "pattern": "^[0-9a-f]{64}$"}


def main() -> None:
    """Write all of them."""
    for name, schema in schemas().items():
        (FOLDER / f"{name}.schema.json").write_text(json.dumps(schema, indent=1) + "\n")


def schemas() -> dict[str, Schema]:
    """Every published schema by its name."""
    return {
        "recipe": _document("recipe", recipe.VERSION, _recipe()),
        "target": _document("target", target.VERSION, _target()),
        "receipt": _document("receipt", receipt.VERSION, _receipt()),
        "measures": _document("measures", 1, _of_api("Measures", {"file": TEXT})),
        "processed": _document("processed", 1, _processed()),
    }


def _document(name: str, version: int, schema: Schema) -> Schema:
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": f"urn:zesty-voice:{name}:{version}",
        **schema,
    }


def _object(properties: Schema, optional: tuple[str, ...] = ()) -> Schema:
    return {
        "type": "object",
        "properties": properties,
        "required": [name for name in properties if name not in optional],
        "additionalProperties": False,
    }


def _or_null(schema: Schema) -> Schema:
    return {"anyOf": [schema, {"type": "null"}]}


def _steps() -> Schema:
    ours = [_step(name, made) for name, made in STEP_TYPES.items()]
    return {"type": "array", "maxItems": recipe.MOST_STEPS, "items": {"anyOf": ours}}


def _step(name: str, made: type[Declared]) -> Schema:
    step = _object(
        {"type": {"const": name}, "enabled": {"type": "boolean"}, "params": _settings(made)},
        optional=("enabled", "params"),
    )
    return {"title": name, **step}


def _settings(made: type[Declared]) -> Schema:
    settings = {name: _setting(one) for name, one in made.settings().items()}
    return _object(settings, optional=tuple(settings))


def _setting(setting: Setting) -> Schema:
    words = {"title": setting.label, "description": setting.help}
    match setting.kind:
        case "number" if setting.word:
            return {**words, "anyOf": [_within(setting), {"const": setting.word}]}
        case "number":
            return {**words, **_within(setting)}
        case "numbers":
            return {**words, "type": "array", "items": _within(setting)}
        case "switch":
            return {**words, "type": "boolean"}
        case "choice":
            return {**words, "enum": list(setting.choices)}
        case _:
            assert setting.record is not None
            return {**words, "type": "array", "items": _settings(setting.record)}


def _within(setting: Setting) -> Schema:
    return {"type": "number", "minimum": setting.low, "maximum": setting.high}


def _recipe() -> Schema:
    return _object(
        {
            "format": {"const": recipe.FORMAT},
            "version": {"enum": list(range(1, recipe.VERSION + 1))},
            "name": TITLE,
            "description": TEXT,
            "steps": _steps(),
        },
        optional=("description",),
    )


def _target() -> Schema:
    bounds = {
        name: {
            "title": f"{one.label}, {one.unit}",
            "description": one.help,
            **_object(
                {
                    part: {"type": "number", "minimum": one.low, "maximum": one.high}
                    for part in ("low", "high", "aim")
                },
                optional=("low", "high", "aim"),
            ),
        }
        for name, one in target.BOUNDED.items()
    }
    low, high = target.FileWish.RATES_HZ
    file = {
        "container": TEXT,
        "sample_rate_hz": {"type": "integer", "minimum": low, "maximum": high},
        "channels": {"enum": [1, 2]},
        "depth": TEXT,
        "bitrate_kbps": {"type": "integer"},
        "variable": {"type": "boolean"},
    }
    return _object(
        {
            "format": {"const": target.FORMAT},
            "version": {"const": target.VERSION},
            "name": TITLE,
            "description": TEXT,
            "bounds": _object(bounds, optional=tuple(bounds)),
            "file": _object({k: _or_null(v) for k, v in file.items()}, optional=tuple(file)),
        },
        optional=("description", "bounds", "file"),
    )


def _receipt() -> Schema:
    reference, definitions = _measures()
    file = {
        "name": TEXT,
        "sha256": SHA256,
        "bytes": {"type": "integer"},
        "container": TEXT,
        "sample_rate_hz": {"type": "integer"},
        "channels": {"type": "integer"},
        "depth": _or_null(TEXT),
        "bitrate_kbps": _or_null({"type": "integer"}),
        "tags": {"type": "object", "additionalProperties": TEXT},
        "chapters": {"type": "array", "items": {"type": "object"}},
    }
    recording = {
        "name": TEXT,
        "sha256": SHA256,
        "duration_s": NUMBER,
        "sample_rate_hz": {"type": "integer"},
        "channels": {"type": "integer"},
    }
    rules = {"type": "array", "items": {"type": "object", "required": ["label", "is_met"]}}
    return {
        **_object(
            {
                "format": {"const": receipt.FORMAT},
                "version": {"const": receipt.VERSION},
                "made_at": _or_null({"type": "string", "format": "date-time"}),
                "engine_version": TEXT,
                "recording": _object(recording),
                "edits": {"type": "object"},
                "room_tone": {"type": "object"},
                "recipe": _object({"name": TEXT, "version": _or_null({"type": "integer"})}),
                "chain": {"type": "array", "items": {"type": "object", "required": ["type"]}},
                "steps": {"type": "array", "items": {"type": "object", "required": ["type"]}},
                "provided_steps": {"type": "object"},
                "target": _or_null(_target()),
                "offset_lu": NUMBER,
                "file": _object(file),
                "joined": {"type": "array", "items": {"type": "object"}},
                "before": reference,
                "after": reference,
                "check": rules,
                "notes": {"type": "array", "items": TEXT},
                "clipped_samples": {"type": "integer"},
                "order": TEXT,
            }
        ),
        "$defs": definitions,
    }


def _processed() -> Schema:
    reference, definitions = _measures()
    return {
        "type": "object",
        "properties": {
            "engine_version": TEXT,
            "before": reference,
            "after": reference,
            "steps": {"type": "array", "items": {"type": "object", "required": ["type"]}},
        },
        "required": ["engine_version", "before", "after", "steps"],
        "$defs": definitions,
    }


def _measures() -> tuple[Schema, Schema]:
    """A reference to the schema of measures, and the definitions that it needs."""
    measures = _of_api("Measures", {})
    definitions = measures.pop("$defs", {})
    return {"$ref": "#/$defs/Measures"}, definitions | {"Measures": measures}


def _of_api(name: str, more: Schema) -> Schema:
    """A component of the HTTP description as JSON Schema, with what it refers to."""
    components = json.loads(OPENAPI.read_text())["components"]["schemas"]
    needed: Schema = {}

    def converted(part: Any) -> Any:
        if isinstance(part, list):
            return [converted(one) for one in part]
        if not isinstance(part, dict):
            return part
        if "$ref" in part:
            other = part["$ref"].rsplit("/", 1)[1]
            if other not in needed:
                needed[other] = {}
                needed[other] = converted(components[other])
            return {"$ref": f"#/$defs/{other}"}
        made = {k: converted(v) for k, v in part.items() if k not in ("nullable", "readOnly")}
        return _or_null(made) if part.get("nullable") else made

    schema = converted(components[name])
    schema["properties"] |= more
    return {**schema, **({"$defs": needed} if needed else {})}


if __name__ == "__main__":
    sys.exit(main())
