"""Where the material and the state of the training lie, outside the repository's history."""

import os
from pathlib import Path


def data_folder() -> Path:
    """The folder of all material: ``ZESTY_TRAINING``, or ``training/data`` beside this file."""
    return Path(os.environ.get("ZESTY_TRAINING", Path(__file__).parent / "data"))
