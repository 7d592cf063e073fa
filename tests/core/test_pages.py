"""Pages and pictures that travel: whole by themselves, and no name can break out of them."""

from __future__ import annotations

import json
import re
from html import unescape
from html.parser import HTMLParser
from xml.etree import ElementTree

import numpy as np
import pytest

from tests.core.test_delivery import job, take  # noqa: F401 - a fixture
from tests.made_sound import RATE, noise, spoken
from zesty_core.chain.recipe import Recipe
from zesty_core.compare.client_page import Version, client_page, versions_page
from zesty_core.compare.drawings import curves_svg, mirror_svg
from zesty_core.compare.time_series import time_series_of
from zesty_core.delivery.figures import changed, figure_rows, shown
from zesty_core.delivery.file_job import deliver_file
from zesty_core.delivery.page import page, table
from zesty_core.delivery.receipt import mark_of, receipt_page
from zesty_core.foundation.signal import ArraySource

NASTY = '<script>alert("x")</script>'


class Tags(HTMLParser):
    """Every element of a page, and what it would load."""

    def __init__(self, text):
        super().__init__()
        self.names, self.loads = [], []
        self.feed(text)

    def handle_starttag(self, tag, attributes):
        self.names.append(tag)
        self.loads += [v for k, v in attributes if k in ("src", "href") and v]


def test_a_receipt_page_holds_no_script_whatever_things_are_called(take, tmp_path):  # noqa: F811
    made = deliver_file(job(take, tmp_path, recipe=Recipe(NASTY, ())))
    made["recording"]["name"] = made["file"]["name"] = NASTY
    tags = Tags(receipt_page(made))
    assert "script" not in tags.names
    assert tags.loads == []


def test_a_client_page_holds_only_its_own_script():
    sound = spoken(2)
    measures = {"integrated_lufs": -20.0, "true_peak_dbtp": None}
    text = client_page(NASTY, sound, 0.5 * sound, RATE, (measures, measures), [NASTY])
    tags = Tags(text)
    assert tags.names.count("script") == 3  # two sounds, one program
    assert tags.loads == []
    assert "cannot be determined" in text
    lufs = json.loads(unescape(re.search(r'data-lufs="([^"]+)"', text).group(1)))
    assert lufs["after"] - lufs["before"] == pytest.approx(-6.02, abs=0.02)


def test_a_page_of_several_versions_shows_each_under_its_name():
    sound = spoken(2)
    versions = [
        Version(name, factor * sound, RATE, {"integrated_lufs": lufs, "true_peak_dbtp": -3.0})
        for name, factor, lufs in ((NASTY, 1, -20.0), ("Warm", 0.5, -26.0), ("Take 2", 1, None))
    ]
    text = versions_page(NASTY, versions)
    tags = Tags(text)
    assert tags.names.count("script") == 4  # three sounds, one program
    assert tags.loads == []
    assert tags.names.count("textarea") == 3
    assert json.loads(unescape(re.search(r'data-lufs="([^"]+)"', text).group(1))) == {
        "v1": -20.0,
        "v2": -26.0,
        "v3": None,
    }
    assert "Warm" in text
    assert NASTY not in text


@pytest.mark.parametrize("sound", [spoken(1), noise(-60, 0.01), np.zeros((2, 5), np.float32)])
def test_drawings_are_well_formed_for_any_sound(sound):
    for drawn in (mirror_svg(sound, sound), curves_svg([0, 1], [[None, -20], [-30, -10]], [], "w")):
        ElementTree.fromstring(drawn)
    assert "Too quiet" in curves_svg([0, 1], [[None, None], [None, None]], [], "w")


def test_tables_set_figures_right_and_titles_as_text():
    text = table(["A & B", "C"], [["x", "1"]])
    assert "<th>A &amp; B</th>" in text
    assert '<th class="n">C</th>' in text
    assert '<td class="n">1</td>' in text
    assert page(NASTY, "").count("<script>") == 0


@pytest.mark.parametrize(
    ("before", "after", "words"),
    [
        (-20.04, -15.96, "+4.0 LU"),
        (-15.96, -20.04, "\u22124.0 LU"),
        (None, -3.0, ""),
    ],
)
def test_differences_are_of_what_is_shown(before, after, words):
    assert changed(before, after, "LU") == words


def test_figures_have_units_and_true_minus_signs():
    assert shown(-3.04, "dBTP") == "\u22123.0 dBTP"
    rows = figure_rows({"integrated_lufs": -20}, {"integrated_lufs": -16})
    assert rows[0] == ["Loudness", "\u221220.0 LUFS", "\u221216.0 LUFS", "+4.0 LU"]


def test_marks_tell_orders_apart_and_nothing_else():
    assert mark_of({"a": 1, "b": 2}) == mark_of({"b": 2, "a": 1})
    assert mark_of({"a": 1}) != mark_of({"a": 2})


@pytest.mark.parametrize("points", [10, 97, 2000])
def test_a_course_covers_the_whole_with_at_most_so_many_points(points):
    time_series = time_series_of(ArraySource(spoken(12), RATE), 0, 12 * RATE, points)
    assert len(time_series["momentary_lufs"]) <= points
    assert len(time_series["momentary_lufs"]) * time_series["step_s"] == pytest.approx(12, abs=2.5)
    # The loudest moment is not averaged away by coarse steps.
    fine = time_series_of(ArraySource(spoken(12), RATE), 0, 12 * RATE, 2000)
    loudest = [max(v for v in c["momentary_lufs"] if v is not None) for c in (time_series, fine)]
    assert loudest[0] == loudest[1]
    assert sum(time_series["levels"]) == pytest.approx(1, abs=0.01)


def test_the_course_of_nearly_nothing_is_empty_and_finite():
    time_series = time_series_of(ArraySource(np.zeros((1, 100), np.float32), RATE), 0, 100, 50)
    assert time_series["integrated_lufs"] is None
    assert time_series["momentary_lufs"] == []
