"""The pages about steps say what the declarations say."""

from __future__ import annotations

import pytest
from docs.steps.make import pages
from docs.steps.words import WORDS

from zesty_core.steps.registry import STEP_TYPES


def test_every_step_has_words():
    assert set(WORDS) == set(STEP_TYPES)


@pytest.mark.parametrize("path", list(pages()), ids=lambda path: path.stem)
def test_pages_are_up_to_date(path):
    assert path.read_text() == pages()[path], "run `make golden`"
