"""Set-up for all tests: data in a temporary folder, background work done at once."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator

import django
import pytest

# Settings are read here and nowhere earlier, so that no test can touch the user's own data. The
# browser journey starts a server of its own.
_DATA = tempfile.mkdtemp(prefix="zesty-tests-")
_ENVIRONMENT = {
    "ZESTY_DATA": _DATA,
    "ZESTY_TASKS": "now",
    "DJANGO_SETTINGS_MODULE": "zesty_server.config.settings",
}
os.environ |= _ENVIRONMENT
django.setup()
# Test workers inherit the environment and read settings before this file: they must not share data.
for _name in _ENVIRONMENT:
    del os.environ[_name]


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--golden", action="store_true", help="rewrite the files compared with")


@pytest.fixture(scope="session", autouse=True)
def _data_goes_at_the_end() -> Iterator[None]:
    yield
    shutil.rmtree(_DATA, ignore_errors=True)
