"""Settings as a receipt tells them."""

from __future__ import annotations

import pytest

from zesty_core.chain.recipe import chain_from_json
from zesty_core.foundation.setting_words import settings_in_words
from zesty_core.steps.registry import STEP_TYPES


@pytest.mark.parametrize(
    ("kind", "params", "told"),
    [
        (
            "normalize",
            {"target_db": -3},
            "Peak \u22123 dB; Counted as Sample peak; Remove DC offset on; "
            "Same gain on both channels on",
        ),
        ("ambience", {"mix": 0.125}, "Mix 12.5 %"),
        ("eq", {"bands": [{"type": "high_pass", "freq_hz": 80}]}, "high pass"),
        ("eq", {"bands": []}, "Bands none"),
        ("multiband", {"crossovers_hz": [200, 3000]}, "200 Hz, 3000 Hz"),
    ],
)
def test_settings_are_told_in_words(kind, params, told):
    step = chain_from_json([{"type": kind, "params": params}])[0].step
    assert told in settings_in_words(step)


@pytest.mark.parametrize("kind", STEP_TYPES)
def test_no_step_tells_its_settings_as_code(kind):
    words = settings_in_words(STEP_TYPES[kind]())
    assert words
    assert not set(words) & set('{}"_[]')
