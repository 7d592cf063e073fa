"""Makes the demo's material: ``python -m zesty_demo.material FOLDER``."""

from __future__ import annotations

import shutil
import sys
from pathlib import Path

from zesty_demo.beds import make_beds
from zesty_demo.recordings import make_recordings

_HERE = Path(__file__).parent


def make_material(folder: Path) -> None:
    """Write recordings, music and a recipe into ``folder``; the same bytes every time."""
    make_recordings(folder / "recordings")
    make_beds(folder / "beds")
    for document in _HERE.glob("*.zesty.json"):
        shutil.copy(document, folder)
    (folder / "recordings" / "made").touch()


def is_made(folder: Path) -> bool:
    """Whether everything is there."""
    return (folder / "recordings" / "made").exists()


if __name__ == "__main__":
    make_material(Path(sys.argv[1]))
