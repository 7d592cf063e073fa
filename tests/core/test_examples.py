"""The examples in docstrings do what they say."""

from __future__ import annotations

import doctest
import importlib

import pytest

from tests.made_sound import ROOT

SOURCE = ROOT / "src"
#: The front door's example has a test of its own, with files to work on.
MODULES = sorted(
    ".".join(path.relative_to(SOURCE).with_suffix("").parts)
    for path in (SOURCE / "zesty_core").rglob("*.py")
    if ">>> " in path.read_text(encoding="utf-8") and path.stem != "scripting"
)


@pytest.mark.parametrize("name", MODULES)
def test_examples(name):
    result = doctest.testmod(importlib.import_module(name))
    assert result.attempted
    assert not result.failed
