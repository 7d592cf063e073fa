"""Settings to start from: valid, all different, and doing what their names say."""

from __future__ import annotations

import numpy as np
import pytest

from tests.made_sound import RATE, noise, spoken
from zesty_core.chain.recipe import chain_from_json
from zesty_core.chain.runner import run_chain
from zesty_core.foundation.signal import ArraySource
from zesty_core.steps.registry import STEP_TYPES
from zesty_core.steps.starter_settings import starter_settings


@pytest.mark.parametrize("kind", STEP_TYPES)
def test_all_are_whole_and_different(kind):
    starters = starter_settings(kind)
    assert len({s["name"] for s in starters}) == len(starters)
    for starter in starters:
        step = STEP_TYPES[kind].from_params(starter["params"])
        assert not step.is_neutral
        assert starter["params"] == step.as_params()
    assert len({repr(s["params"]) for s in starters}) == len(starters)
    # What is turned the whole way by one gain or one order needs none; a house voice is one's own.
    assert starters or kind in ("gain", "house_voice", "normalize")


def reports(kind):
    voice = spoken(5)
    sound = (0.2 * voice / np.abs(voice).max() + noise(-62, 5)).astype(np.float32)
    chains = [[{"type": kind, "params": s["params"]}] for s in starter_settings(kind)]
    source = ArraySource(sound, RATE)
    return {
        starter["name"]: run_chain(source, chain_from_json(chain), lambda block: None)
        for starter, chain in zip(starter_settings(kind), chains, strict=True)
    }


def test_dense_compression_takes_more_than_gentle():
    typical = {
        n: r.points[0].report["typical_reduction_db"] for n, r in reports("compressor").items()
    }
    assert typical["Gentle narration"] < typical["Lively talk"] < typical["Dense, for a video"]


def test_noise_reduction_goes_as_deep_as_its_names():
    change = {
        n: r.points[0].report["room_tone_change_db"] for n, r in reports("noise_reduction").items()
    }
    assert change["Quiet room"] > change["Fan and street"] > change["Rescue"]


def test_pauses_that_are_shut_are_softer_than_calm_ones():
    floors = {n: r.after.noise_floor_dbfs for n, r in reports("gate").items()}
    assert floors["Shut pauses"] < floors["Calm pauses"] < floors["Soft between the words"]
