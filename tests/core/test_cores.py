"""How many processors are used: what the system allows, not what the machine has."""

from __future__ import annotations

import os

import pytest

from zesty_core.runtime import cores as module
from zesty_core.runtime.cores import allowed_cores, cores, kept_to


@pytest.fixture
def machine(monkeypatch, tmp_path):
    """A machine with eight processors, and a container's limits in ``tmp_path``."""
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: set(range(8)))
    monkeypatch.setattr(module, "_CGROUP", tmp_path)
    allowed_cores.cache_clear()
    yield tmp_path
    allowed_cores.cache_clear()


@pytest.mark.parametrize(
    ("text", "expected"),
    [(None, 8), ("max 100000", 8), ("200000 100000", 2), ("150000 100000", 2), ("20000 100000", 1)],
)
def test_a_container_of_version_two(machine, text, expected):
    if text:
        (machine / "cpu.max").write_text(f"{text}\n")
    assert cores() == expected


@pytest.mark.parametrize(("quota", "expected"), [("-1", 8), ("400000", 4), ("50000", 1)])
def test_a_container_of_version_one(machine, quota, expected):
    (machine / "cpu").mkdir()
    (machine / "cpu" / "cpu.cfs_quota_us").write_text(f"{quota}\n")
    (machine / "cpu" / "cpu.cfs_period_us").write_text("100000\n")
    assert cores() == expected


def test_affinity_and_a_limit_of_our_own(machine, monkeypatch):
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: {3})
    assert cores() == 1
    with kept_to(5):
        assert cores() == 5
