"""Waveform overviews, kept as files."""

from __future__ import annotations

import uuid
from pathlib import Path

import numpy as np

from zesty_core.foundation.signal import Block


def store_overview(path: Path, bins: Block) -> None:
    """Write an overview whole or not at all; several may do so at once."""
    part = path.with_name(f"{uuid.uuid4().hex}.part.npy")
    np.save(part, bins)
    part.replace(path)
