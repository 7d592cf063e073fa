"""Targets: the document, its faults, and the check."""

from __future__ import annotations

import json

import pytest

from zesty_core.foundation.errors import BadInput, BadSetting
from zesty_core.targets.check import (
    FileFacts,
    check_file,
    check_measures,
    figure,
    file_words,
    met_and_all,
)
from zesty_core.targets.document import MOST_BYTES, Bound, FileWish, Target, read_target
from zesty_core.targets.starters import STARTERS, starter

DOCUMENT = {
    "format": "zesty-target",
    "version": 1,
    "name": "Ours",
    "bounds": {"integrated_lufs": {"low": -17, "high": -15}, "true_peak_dbtp": {"high": -1}},
    "file": {"container": "MP3", "bitrate_kbps": 128},
}


def with_(path: str, value: object) -> dict:
    made = json.loads(json.dumps(DOCUMENT))
    *way, last = path.split(".")
    inside = made
    for key in way:
        inside = inside.setdefault(key, {})
    inside[last] = value
    return made


@pytest.mark.parametrize("target", STARTERS, ids=lambda t: t.name)
def test_starters_come_back_from_their_documents(target):
    assert Target.from_json(target.as_json()) == target
    assert starter(target.name.upper()) == target


@pytest.mark.parametrize(
    ("document", "path"),
    [
        (with_("format", "recipe"), "format"),
        (with_("version", 2), "version"),
        (with_("version", True), "version"),
        (with_("name", " "), "name"),
        (with_("name", "A\0"), "name"),
        (with_("description", "A\ud800"), "description"),
        (with_("surprise", 1), "surprise"),
        (with_("bounds.warmth", {"low": 1}), "bounds.warmth"),
        (with_("bounds.integrated_lufs", {}), "bounds.integrated_lufs"),
        (with_("bounds.integrated_lufs", {"low": -10, "high": -20}), "bounds.integrated_lufs.low"),
        (with_("bounds.integrated_lufs.aim", -20), "bounds.integrated_lufs.aim"),
        (with_("bounds.true_peak_dbtp.high", 3), "bounds.true_peak_dbtp.high"),
        (with_("bounds.true_peak_dbtp.high", float("nan")), "bounds.true_peak_dbtp.high"),
        (with_("bounds.true_peak_dbtp.high", "loud"), "bounds.true_peak_dbtp.high"),
        (with_("file.container", "AAC"), "file.container"),
        (with_("file.depth", "16"), "file.depth"),
        (with_("file.sample_rate_hz", 400), "file.sample_rate_hz"),
        (with_("file.channels", 3), "file.channels"),
        (with_("file.bitrate_kbps", 9000), "file.bitrate_kbps"),
        (with_("file.colour", "red"), "file.colour"),
    ],
)
def test_a_faulty_document_is_refused_with_the_path(document, path):
    with pytest.raises(BadSetting) as fault:
        Target.from_json(document)
    assert fault.value.path == path


@pytest.mark.parametrize("text", ["", "[]", "{", '{"format": 1}', "null"])
def test_what_is_no_target_is_refused(tmp_path, text):
    path = tmp_path / "t.json"
    path.write_text(text)
    with pytest.raises(BadInput):
        read_target(path)
    with pytest.raises(BadInput, match="no such target"):
        read_target(tmp_path / "none.json")


MEASURES = {
    "integrated_lufs": -15.94,
    "true_peak_dbtp": -0.96,
    "noise_floor_dbfs": None,
    "duration_s": 10.0,
    "speech_events": {"phrases": [{"start_s": 0.75, "end_s": 3.0}, {"start_s": 4.0, "end_s": 8.5}]},
}


@pytest.mark.parametrize(
    ("bounds", "met", "off"),
    [
        ({"integrated_lufs": Bound(-17, -15)}, True, 0.0),
        ({"integrated_lufs": Bound(-24, -22)}, False, 6.1),
        ({"integrated_lufs": Bound(low=-14)}, False, -1.9),
        # Judged as it is shown: -1.0.
        ({"true_peak_dbtp": Bound(high=-1.0)}, True, 0.0),
        ({"true_peak_dbtp": Bound(high=-1.1)}, False, 0.1),
        ({"noise_floor_dbfs": Bound(high=-60)}, None, None),
        ({"head_s": Bound(0.5, 1.0)}, True, 0.0),
        ({"tail_s": Bound(2.0, 3.0)}, False, -0.5),
    ],
)
def test_each_rule_is_judged_with_its_figure(bounds, met, off):
    (rule,) = check_measures(Target("T", bounds), MEASURES)
    assert (rule.is_met, rule.off_by) == (met, off)


def test_the_level_moves_with_its_set_and_ceilings_do_not():
    target = Target("T", {"integrated_lufs": Bound(-17, -15), "true_peak_dbtp": Bound(high=-1)})
    rules = check_measures(target, MEASURES | {"integrated_lufs": -19.0}, offset_lu=-3.0)
    assert met_and_all(rules) == (2, 2)
    assert rules[0].wanted == "−20.0 to −18.0 LUFS"


def test_the_kind_of_file_is_judged():
    target = Target("T", {}, FileWish("MP3", 44_100, 1, bitrate_kbps=128))
    facts = FileFacts("MP3", 48_000, 1, bitrate_kbps=128)
    assert {r.name: r.is_met for r in check_file(target, facts)} == {
        "container": True,
        "sample_rate_hz": False,
        "channels": True,
        "bitrate_kbps": True,
    }


def test_kinds_of_file_in_words_and_where_to_aim():
    wish = FileWish("MP3", 44_100, 1, bitrate_kbps=128)
    assert file_words(wish) == "MP3, 44.1 kHz, mono, 128 kbit/s"
    assert Bound(-17, -15, aim=-15.5).middle == -15.5
    assert Bound(-17, -15).middle == -16
    assert Bound(high=-1).middle == -1


def test_a_document_larger_than_a_target_can_be_is_refused(tmp_path):
    path = tmp_path / "t.json"
    path.write_text(" " * (MOST_BYTES + 1))
    with pytest.raises(BadInput, match="larger than a target can be"):
        read_target(path)


def test_head_and_tail_need_a_voice():
    assert figure(MEASURES, "head_s") == 0.75
    assert figure(MEASURES | {"speech_events": None}, "tail_s") is None


def test_a_word_that_rings_past_the_end_leaves_no_tail():
    assert figure(MEASURES | {"duration_s": 8.4}, "tail_s") == 0.0
    assert figure(MEASURES | {"duration_s": 9.0}, "tail_s") == 0.5


def test_a_rule_that_cannot_be_judged_is_not_met():
    bounds = {
        "integrated_lufs": Bound(-17, -15),
        "noise_floor_dbfs": Bound(high=-60),
        "true_peak_dbtp": Bound(high=-2),
    }
    rules = check_measures(Target("T", bounds), MEASURES)
    assert sorted(str(rule.is_met) for rule in rules) == ["False", "None", "True"]
    assert met_and_all(rules) == (1, 3)
