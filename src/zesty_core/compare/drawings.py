"""Pictures of before and after as SVG text, for pages that must work without the application."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from zesty_core.foundation.signal import Block

BEFORE, AFTER = "#6A3D7C", "#D9480F"
_INK, _RULE, _MUTED = "#261F2E", "#E2D5C0", "#6B6272"
_WIDTH, _LEFT, _BOTTOM = 900, 46, 22
_LOWEST_DB = -72.0
_COLUMNS = 450


def mirror_svg(before: Block, after: Block) -> str:
    """Levels of both over time, before upwards and after downwards from one axis."""
    height, half = 260, 118
    parts = []
    for sound, direction, colour in ((before, -1, BEFORE), (after, 1, AFTER)):
        peaks = _columns(sound)
        share = np.clip(1.0 - peaks / _LOWEST_DB, 0.0, 1.0)
        axis = height / 2 + direction * 6
        xs = _LEFT + (np.arange(len(share)) + 0.5) * (_WIDTH - _LEFT) / max(1, len(share))
        edge = " ".join(
            f"L{x:.1f} {axis + direction * half * s:.1f}" for x, s in zip(xs, share, strict=True)
        )
        parts.append(
            f'<path d="M{_LEFT} {axis} {edge} L{_WIDTH} {axis} Z" fill="{colour}" opacity="0.8"/>'
        )
    parts += [
        f'<text x="0" y="16" fill="{BEFORE}" font-weight="600">Before</text>',
        f'<text x="0" y="{height - 6}" fill="{AFTER}" font-weight="600">After</text>',
    ]
    return _svg(height, parts, "Levels before (above) and after (below) over time, in decibels")


def curves_svg(
    xs: Sequence[float],
    sides: Sequence[Sequence[float | None]],
    x_ticks: Sequence[tuple[float, str]],
    words: str,
) -> str:
    """Curves before and after over ``xs`` (evenly spaced to draw), with a ruler in decibels."""
    height = 240
    known = [v for side in sides for v in side if v is not None]
    if not known:
        return _svg(40, ['<text x="0" y="20">Too quiet to draw.</text>'], words)
    top = 10.0 * math.ceil(max(known) / 10.0)
    low = max(10.0 * math.floor(min(known) / 10.0), top - 70.0)
    span = (min(xs), max(xs))

    def x(value: float) -> float:
        share = (value - span[0]) / max(1e-9, span[1] - span[0])
        return _LEFT + share * (_WIDTH - _LEFT - 4)

    def y(value: float) -> float:
        return 8 + (top - max(low, value)) / (top - low) * (height - _BOTTOM - 8)

    parts = []
    for db in np.arange(low, top + 1, 10.0):
        shown = f"{db:.0f}".replace("-", "\u2212")
        parts.append(
            f'<line x1="{_LEFT}" x2="{_WIDTH}" y1="{y(db):.1f}" y2="{y(db):.1f}" stroke="{_RULE}"/>'
            f'<text x="{_LEFT - 6}" y="{y(db) + 4:.1f}" text-anchor="end" fill="{_MUTED}">'
            f"{shown}</text>"
        )
    for at, text in x_ticks:
        parts.append(
            f'<text x="{x(at):.1f}" y="{height - 4}" text-anchor="middle" fill="{_MUTED}">'
            f"{text}</text>"
        )
    looks = ((BEFORE, ' stroke-dasharray="5 4"'), (AFTER, ""))
    for values, (colour, dash) in zip(sides, looks, strict=True):
        parts.append(
            f'<path d="{_line(xs, values, x, y)}" fill="none" stroke="{colour}" '
            f'stroke-width="2"{dash}/>'
        )
    return _svg(height, parts, words)


def _line(xs: Sequence[float], values: Sequence[float | None], x: Any, y: Any) -> str:
    """Path with gaps where a value is missing."""
    made, open_ = [], False
    for at, value in zip(xs, values, strict=True):
        if value is None:
            open_ = False
            continue
        made.append(f"{'L' if open_ else 'M'}{x(at):.1f} {y(value):.1f}")
        open_ = True
    return "".join(made)


def _columns(sound: Block) -> np.ndarray:
    """Peak of each column in dBFS."""
    width = max(1, -(-sound.shape[1] // _COLUMNS))
    whole = sound.shape[1] // width
    if whole == 0:
        return np.full(1, _LOWEST_DB)
    cut = np.abs(sound[:, : whole * width]).reshape(len(sound), whole, width)
    peaks = cut.max(axis=(0, 2)).astype(np.float64)
    return np.asarray(20.0 * np.log10(np.maximum(peaks, 1e-6)))


def _svg(height: int, parts: Sequence[str], words: str) -> str:
    return (
        f'<svg viewBox="0 0 {_WIDTH} {height}" role="img" aria-label="{words}" '
        f'style="width:100%;font:12px system-ui,sans-serif" fill="{_INK}">{"".join(parts)}</svg>'
    )
