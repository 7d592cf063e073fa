"""Chains built wrong are found, with their figures and one thing to do that mends them."""

from __future__ import annotations

import pytest

from tests.made_sound import STARTER
from zesty_core.advice.chain import StepResult, chain_advice
from zesty_core.chain.recipe import chain_as_json, chain_from_json, read_recipe
from zesty_core.measures.report import Levels

BEFORE = Levels(-12.0, -30.0, -55.0)
AFTER = Levels(-3.0, -20.0, -60.0)
WORKS = {"typical_reduction_db": 3.0, "max_reduction_db": 8.0, "active_share": 0.5}
WORKS |= {"threshold_dbfs": -25.0, "warble": 1.0}


def step(type_, **params):
    return {"type": type_, "params": params}


def bell(freq_hz, gain_db):
    return {"type": "bell", "freq_hz": freq_hz, "gain_db": gain_db, "q": 1}


NORMAL = step("normalize")
FOLLOWS = {"follow_voice": True, "threshold_db": -5}


def advice(steps, report=WORKS, levels=AFTER):
    chain = chain_from_json(steps)
    reports = report if isinstance(report, list) else [report] * len(chain)
    return chain_advice(chain, BEFORE, [StepResult(levels, r) for r in reports])


WRONG = [
    ([NORMAL, step("compressor"), step("noise_reduction")], WORKS, AFTER, "late_noise_reduction"),
    (
        [NORMAL, step("eq", bands=[bell(3000, 4)]), step("compressor")],
        WORKS,
        AFTER,
        "boost_into_compressor",
    ),
    ([step("limiter"), step("eq", bands=[bell(3000, 3)])], WORKS, AFTER, "limiter_not_last"),
    ([step("compressor")], WORKS, AFTER, "no_calibration"),
    ([step("gate", follow_voice=False)], WORKS, AFTER, "no_calibration"),
    ([step("noise_reduction", depth_db=31)], WORKS, AFTER, "deep_noise_reduction"),
    (
        [step("noise_reduction", method="statistics", depth_db=21)],
        WORKS,
        AFTER,
        "deep_noise_reduction",
    ),
    (
        [step("noise_reduction", method="statistics", depth_db=18)],
        WORKS | {"warble": 2.1},
        AFTER,
        "deep_noise_reduction",
    ),
    (
        [NORMAL, step("compressor")],
        WORKS | {"typical_reduction_db": 14.0},
        AFTER,
        "much_compression",
    ),
    ([step("saturation", drive_db=18)], WORKS, AFTER, "much_saturation"),
    ([step("eq", bands=[bell(400, -4), bell(420, 3)])], WORKS, AFTER, "opposed_bands"),
    (
        [step("de_esser", **FOLLOWS), step("eq", bands=[bell(7000, 4)])],
        WORKS,
        AFTER,
        "boosted_sibilance",
    ),
    ([step("loudness", ceiling_dbtp=-0.1)], WORKS, Levels(-0.1, -20.0, -60.0), "high_peak"),
    ([step("compressor", **FOLLOWS)], WORKS | {"max_reduction_db": 0.1}, AFTER, "nothing_happens"),
    (
        [NORMAL, step("compressor", threshold_db=18)],
        WORKS | {"max_reduction_db": 0.0},
        AFTER,
        "threshold_over_full_scale",
    ),
    (
        [NORMAL, step("gate", follow_voice=False, threshold_db=6)],
        WORKS,
        AFTER,
        "threshold_over_full_scale",
    ),
]


@pytest.mark.parametrize(
    ("steps", "report", "levels", "code"), WRONG, ids=lambda v: v if isinstance(v, str) else ""
)
def test_a_wrong_chain_is_told_and_its_act_mends_it(steps, report, levels, code):
    found = advice(steps, report, levels)
    assert [f.code for f in found] == [code]
    finding = found[0]
    assert any(c.isdigit() for c in finding.text) or code in (
        "limiter_not_last",
        "nothing_happens",
        "late_noise_reduction",
    )
    assert finding.at_step is not None
    if finding.act is None:
        return
    mended = chain_as_json(chain_from_json(steps))
    with_ = finding.act.with_
    if finding.act.kind == "move_step":
        mended.insert(with_["to"], mended.pop(with_["from"]))
    else:
        assert finding.act.kind == "set_params"
        mended[with_["at"]]["params"] |= with_["params"]
    # What was done is known anew once it has run; here only order and settings can mend.
    calm = WORKS | {"max_reduction_db": 5.0}
    assert code not in [f.code for f in advice(mended, calm)]


GOOD = [
    [],
    [
        NORMAL,
        step("noise_reduction"),
        step("eq", bands=[bell(300, -3)]),
        step("compressor"),
        step("limiter"),
        step("loudness"),
    ],
    [step("compressor", **FOLLOWS), step("limiter")],
    [{**step("compressor"), "enabled": False}],
    [step("eq", bands=[bell(400, -4), bell(3000, 3)])],
]


@pytest.mark.parametrize("steps", GOOD)
def test_nothing_is_found_on_a_good_chain(steps):
    assert advice(steps) == []


def test_nothing_is_found_on_the_starter():
    assert advice(chain_as_json(read_recipe(STARTER).chain)) == []


def test_without_results_only_order_and_settings_are_judged():
    nothing = Levels(None, None, None)
    chain = chain_from_json([step("compressor"), step("noise_reduction")])
    found = chain_advice(chain, nothing, [StepResult(nothing, {})] * 2)
    assert [f.code for f in found] == ["no_calibration", "late_noise_reduction"]


def test_following_the_voice_keeps_the_threshold_where_it_was():
    (finding,) = advice([step("compressor", threshold_db=-18, quiet_guard_db=-40)])
    params = finding.act.with_["params"]
    assert params == {"follow_voice": True, "threshold_db": 12.0, "quiet_guard_db": -10.0}


@pytest.mark.parametrize(
    ("ceiling", "peak", "told"),
    [
        (None, -0.5, "leave 1 dB"),
        (-3.0, -2.0, "target allows"),
        (-3.0, -3.0, None),
        (0.0, -0.5, None),
    ],
)
def test_a_ceiling_above_the_target_is_told(ceiling, peak, told):
    chain = chain_from_json([{"type": "limiter", "params": {"ceiling_dbtp": -0.1}}])
    results = [StepResult(Levels(peak, -20.0, -60.0), {})]
    found = [
        f
        for f in chain_advice(chain, Levels(-3, -20, -60), results, ceiling)
        if f.code == "high_peak"
    ]
    assert [told in f.text for f in found] == ([True] if told else [])
    if found:
        assert found[0].act.with_["params"]["ceiling_dbtp"] == (
            -1.0 if ceiling is None else ceiling
        )
