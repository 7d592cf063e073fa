"""Tries of passwords: they wait, nobody is kept out, nothing is forgotten by being flooded."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.utils import timezone

from zesty_server.accounts import sign_in_tries
from zesty_server.accounts.models import SignInTries
from zesty_server.accounts.sign_in_tries import BY_NAME, BY_PAIR, Try, succeeded, wait_before

HOME, ELSEWHERE = "203.0.113.7", "198.51.100.4"


@pytest.fixture
def clock(db, monkeypatch):
    class Clock:
        now = timezone.now()

        def later(self, seconds):
            self.now += timedelta(seconds=seconds)

    clock = Clock()
    monkeypatch.setattr(sign_in_tries.timezone, "now", lambda: clock.now)
    return clock


def tried(count, name="warden", address=HOME):
    """Tries at once, from addresses of their own where the address holds a place for a number."""
    return [wait_before(Try(name, address.format(n))) for n in range(count)]


def test_the_first_tries_cost_nothing_and_later_ones_ever_more(clock):
    assert tried(BY_PAIR.free) == [0.0] * BY_PAIR.free
    waits = []
    for _ in range(8):
        waits.append(wait_before(Try("warden", HOME)))
        clock.later(waits[-1])
        assert wait_before(Try("warden", HOME)) == 0.0
    assert waits == [1.0, 2.0, 4.0, 8.0, 16.0, 30.0, 30.0, 30.0]


def test_waiting_is_not_made_longer_by_asking(clock):
    tried(BY_PAIR.free)
    assert tried(50) == [1.0] * 50
    clock.later(1.0)
    assert tried(1) == [0.0]


def test_a_flood_of_other_names_forgets_nothing(clock):
    tried(BY_PAIR.free + 1)
    for n in range(500):
        wait_before(Try(f"name {n}", ELSEWHERE))
    assert tried(1)[0] > 0.0


def test_nobody_is_locked_out_of_a_known_name(clock):
    assert wait_before(Try("warden", HOME)) == 0.0
    succeeded(Try("warden", HOME))
    # A thousand addresses try the name.
    waits = tried(1000, address="192.0.2.{}")
    assert 0.0 < max(waits) <= max(BY_NAME.longest_s, sign_in_tries.IN_ALL.longest_s)
    # From where somebody signed in before, nothing is felt of it.
    assert wait_before(Try("warden", HOME)) == 0.0
    # From anywhere else it is a matter of seconds.
    clock.later(BY_NAME.longest_s)
    assert wait_before(Try("warden", ELSEWHERE)) == 0.0


def test_many_names_from_one_address_wait_as_well(clock):
    waits = [wait_before(Try(f"name {n}", HOME)) for n in range(60)]
    assert waits[:20] == [0.0] * 20
    assert min(waits[20:]) > 0.0
    # Of the newer kind, a sender holds a whole network of addresses.
    waits = [wait_before(Try(f"other {n}", f"2001:db8::{n:x}")) for n in range(30)]
    assert min(waits[20:]) > 0.0


def test_success_takes_back_what_was_counted(clock):
    for _ in range(100):
        assert wait_before(Try("warden", HOME)) == 0.0
        succeeded(Try("warden", HOME))


@pytest.mark.parametrize("hours", [-1, 1])
def test_a_clock_that_jumps_makes_no_wait_longer(clock, hours):
    tried(BY_PAIR.free + 1)
    clock.later(3600 * hours)
    assert tried(1)[0] <= 1.0


def test_old_counts_go(clock):
    for n in range(50):
        wait_before(Try(f"name {n}", f"192.0.2.{n}"))
    succeeded(Try("name 1", "192.0.2.1"))
    clock.later(3600)
    wait_before(Try("warden", HOME))
    left = SignInTries.objects.count()
    assert left <= 6
    assert wait_before(Try("name 1", "192.0.2.1")) == 0.0
