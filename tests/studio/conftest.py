"""Services that a studio's server leans on."""

from __future__ import annotations

import pytest

from tests.studio.services import Postgres, Redis


@pytest.fixture
def postgres():
    made = Postgres()
    yield made
    made.close()


@pytest.fixture
def redis():
    made = Redis()
    yield made
    made.close()
