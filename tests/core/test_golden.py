"""Measures of two demo recordings against a kept file; `make golden` rewrites it."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.made_sound import RECORDINGS
from zesty_core.audio.reader import AudioFile
from zesty_core.measures.stream import measure

KEPT = Path(__file__).parent / "golden"


@pytest.mark.parametrize("name", ["hide-guide-causeway", "volunteer-desk"])
def test_measures_stay_as_they_were(name, request):
    file = AudioFile(RECORDINGS / f"{name}.wav")
    data = measure(file.blocks(), file.info).as_json()
    path = KEPT / f"{name}.json"
    if request.config.getoption("--golden"):
        KEPT.mkdir(exist_ok=True)
        path.write_text(json.dumps(data, indent=1) + "\n")
    kept = json.loads(path.read_text())
    assert data.keys() == kept.keys()
    for key, value in kept.items():
        # Another processor may differ in the last displayed place.
        expected = pytest.approx(value, abs=0.011) if isinstance(value, float) else value
        assert data[key] == expected, key
