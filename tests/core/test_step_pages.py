"""The pages about steps say what the declarations say."""

from __future__ import annotations

import pytest
from docs.steps.make import pages

from zesty_core.steps.registry import STEP_TYPES


@pytest.mark.parametrize("step", STEP_TYPES.values(), ids=lambda step: step.type)
def test_every_step_has_a_guide(step):
    assert step.guide.purpose
    assert step.guide.starting_points


@pytest.mark.parametrize("path", list(pages()), ids=lambda path: path.stem)
def test_pages_are_up_to_date(path):
    assert path.read_text() == pages()[path], "run `make golden`"
