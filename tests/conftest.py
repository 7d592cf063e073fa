"""Set-up for all tests: data in a temporary folder, background work done at once."""

from __future__ import annotations

import os
import tempfile

import pytest

# Before Django reads its settings. The browser journey starts a server of its own.
os.environ["ZESTY_DATA"] = tempfile.mkdtemp(prefix="zesty-tests-")
os.environ["ZESTY_TASKS"] = "now"


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--golden", action="store_true", help="rewrite the files compared with")
