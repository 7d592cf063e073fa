"""What travels beside a delivery: where it came from, all that was done, and what it measures.

A JSON document (``*.receipt.json``) and a page to read (``*.receipt.html``).
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from html import escape
from pathlib import Path
from typing import Any

from zesty_core.bed.settings import BedSettings
from zesty_core.chain.earlier_versions import with_methods
from zesty_core.chain.recipe import Chain, chain_as_json, chain_from_json
from zesty_core.delivery.deliver import Delivered
from zesty_core.delivery.figures import figure_rows
from zesty_core.delivery.page import page, table
from zesty_core.foundation.setting_words import settings_in_words
from zesty_core.foundation.signal import SignalInfo
from zesty_core.foundation.units import format_time
from zesty_core.foundation.version import ENGINE_VERSION
from zesty_core.steps.registry import provider_of
from zesty_core.targets.document import Target

FORMAT, VERSION = "zesty-receipt", 1
_PIECE_BYTES = 1 << 20


@dataclass(frozen=True)
class Origin:
    """Where a delivery came from. ``edits`` is what was done before the chain, as JSON."""

    name: str
    sha256: str
    info: SignalInfo
    recipe_name: str
    recipe_version: int | None
    edits: Mapping[str, Any]


def sha256_of(path: Path) -> str:
    """Hash of a file's bytes."""
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while piece := file.read(_PIECE_BYTES):
            digest.update(piece)
    return digest.hexdigest()


def mark_of(order: Mapping[str, Any]) -> str:
    """Stands for everything that decides the bytes of a delivery, engine version included."""
    text = json.dumps([ENGINE_VERSION, order], sort_keys=True, ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()


def receipt_of(
    delivered: Delivered,
    out: Path,
    name: str,
    origin: Origin,
    *,
    target: Target | None,
    offset_lu: float = 0.0,
    tags: Mapping[str, str] | None = None,
    mark: str = "",
    made_at: datetime | None = None,
) -> dict[str, Any]:
    """The receipt as JSON; ``out`` is the finished file, ``name`` what it is called."""
    result, facts = delivered.result, delivered.facts
    return {
        "format": FORMAT,
        "version": VERSION,
        "made_at": made_at.isoformat(timespec="seconds") if made_at else None,
        "engine_version": ENGINE_VERSION,
        "recording": {
            "name": origin.name,
            "sha256": origin.sha256,
            "duration_s": round(origin.info.duration_s, 4),
            "sample_rate_hz": origin.info.sample_rate_hz,
            "channels": origin.info.channels,
        },
        "edits": dict(origin.edits),
        "room_tone": result.room_tone_json(),
        "recipe": {"name": origin.recipe_name, "version": origin.recipe_version},
        "chain": chain_as_json(delivered.chain),
        "steps": [point.as_json() for point in result.points],
        "provided_steps": providers_of(delivered.chain),
        "target": target.as_json() if target else None,
        "offset_lu": offset_lu,
        "file": {
            "name": name,
            "sha256": sha256_of(out),
            "bytes": out.stat().st_size,
            "container": facts.container,
            "sample_rate_hz": facts.sample_rate_hz,
            "channels": facts.channels,
            "depth": facts.depth,
            "bitrate_kbps": facts.bitrate_kbps,
            "tags": dict(tags or {}),
            "chapters": [chapter.as_json() for chapter in delivered.chapters],
        },
        "joined": [piece.as_json() for piece in delivered.pieces],
        "before": result.before.as_json(),
        "after": delivered.file.as_json(),
        "check": [rule.as_json() for rule in delivered.rules],
        "notes": list(delivered.notes),
        "clipped_samples": delivered.clipped_samples,
        "order": mark,
    }


def providers_of(chain: Chain) -> dict[str, dict[str, str]]:
    """Package and version of each step type that is not the product's own."""
    types = sorted({entry.step.type for entry in chain})
    return {name: provider.as_json() for name in types if (provider := provider_of(name))}


def receipt_text(receipt: Mapping[str, Any]) -> str:
    """Text of the document."""
    return json.dumps(receipt, indent=2, ensure_ascii=False, allow_nan=False) + "\n"


def receipt_page(receipt: Mapping[str, Any]) -> str:
    """The page to read."""
    file, recording, recipe = receipt["file"], receipt["recording"], receipt["recipe"]
    version = f", version {recipe['version']}" if recipe["version"] else ""
    made = f"Made {receipt['made_at']}. " if receipt["made_at"] else ""
    body = [
        f"<h1>{escape(file['name'])}</h1>",
        f'<p class="muted">From \u201c{escape(recording["name"])}\u201d with the recipe '
        f"\u201c{escape(recipe['name'] or 'its own chain')}\u201d{version}. "
        f"{made}Engine version {escape(str(receipt['engine_version']))}.</p>",
        *_check_part(receipt),
        "<h2>Before and after</h2>",
        table(
            ["Measure", "Before", "After", "Difference"],
            figure_rows(receipt["before"], receipt["after"]),
        ),
        "<h2>What was done</h2>",
        _steps_part(receipt),
        *_bed_part(receipt),
        *_joined_part(receipt),
        *_chapters_part(receipt),
        *(f"<p>Note: {escape(note)}</p>" for note in receipt["notes"]),
        "<h2>Files</h2>",
        table(
            ["File", "SHA-256"],
            [
                [escape(one["name"]), f"<code>{one['sha256']}</code>"]
                for one in (recording, receipt.get("bed"), *receipt.get("joined", ()), file)
                if one
            ],
            numbers_from=2,
        ),
    ]
    return page(f"Receipt: {file['name']}", "".join(body))


def _check_part(receipt: Mapping[str, Any]) -> list[str]:
    if not receipt["target"]:
        return []
    words = {
        True: ("met", "met"),
        False: ("missed", "not met"),
        None: ("missed", "cannot be determined"),
    }
    rows = [
        [
            escape(rule["label"]),
            escape(rule["wanted"]),
            escape(rule["got"]),
            '<span class="{}">{}</span>'.format(*words[rule["is_met"]]),
        ]
        for rule in receipt["check"]
    ]
    return [
        f"<h2>Target: {escape(receipt['target']['name'])}</h2>",
        table(["Rule", "Wanted", "This file", ""], rows),
    ]


def _bed_part(receipt: Mapping[str, Any]) -> list[str]:
    """Of a mix: what the voice was laid over, and where in the chain."""
    bed = receipt.get("bed")
    if not bed:
        return []
    settings = settings_in_words(BedSettings.from_params(bed["params"]))
    return [
        f"<p>After step {bed['after_step']} the voice is laid over the bed "
        f"\u201c{escape(bed['name'])}\u201d ({escape(settings)}); "
        "what follows works on both together.</p>"
    ]


def _joined_part(receipt: Mapping[str, Any]) -> list[str]:
    """Intro and outro: how they were joined on."""
    return [
        f"<p>{escape(piece['place'].capitalize())} \u201c{escape(piece['name'])}\u201d, "
        f"{piece['overlap_s']:g} s overlap, {piece['level_lu']:+g} LU relative to the voice "
        f"(gain {piece['gain_db']:+.1f} dB), joined before the final level.</p>"
        for piece in receipt.get("joined", ())
    ]


def _chapters_part(receipt: Mapping[str, Any]) -> list[str]:
    chapters = receipt["file"].get("chapters")
    if not chapters:
        return []
    rows = [[format_time(one["start_s"]), escape(one["name"])] for one in chapters]
    return ["<h2>Chapters</h2>", table(["Start", "Name"], rows, numbers_from=2)]


def _from_package(receipt: Mapping[str, Any], step_type: str) -> str:
    provider = receipt.get("provided_steps", {}).get(step_type)
    if not provider:
        return ""
    return f'<br><span class="muted">{escape(provider["package"])} {escape(provider["version"])}</span>'


def _steps_part(receipt: Mapping[str, Any]) -> str:
    chain = chain_from_json(with_methods(receipt["chain"]))
    rows = [
        [
            escape(entry.step.label) + _from_package(receipt, entry.step.type),
            escape(entry.step.sentence()) if entry.enabled else "off",
            escape(settings_in_words(entry.step)),
        ]
        for entry in chain
    ]
    return table(["Step", "What it does", "Settings"], rows, numbers_from=3)
