"""Work beside the main thread, and sound kept on disk between passes."""

from __future__ import annotations

import threading

import numpy as np
import pytest

from tests.made_sound import RATE, noise
from zesty_core.background import InOrder, ReadAhead, SideBySide
from zesty_core.cores import cores, kept_to
from zesty_core.errors import BadInput, UnwritableAudio
from zesty_core.signal import SignalInfo
from zesty_core.spool import Spool


def test_calls_are_made_one_after_the_other():
    done = []
    beside = InOrder()
    for number in range(200):
        beside.submit(done.append, number)
    assert beside.ended() is None
    assert done == list(range(200))


def test_an_error_beside_comes_back_and_later_calls_are_not_made():
    done = []

    def fail():
        raise BadInput("no")

    beside = InOrder()
    beside.submit(fail)
    beside.submit(done.append, 1)
    assert str(beside.ended()) == "no"
    assert done == []


def test_reading_ahead_keeps_order_and_hands_on_errors():
    assert list(ReadAhead(range(100))) == list(range(100))

    def items():
        yield 1
        raise BadInput("damaged")

    seen = []
    with pytest.raises(BadInput, match="damaged"):
        seen.extend(ReadAhead(items()))
    ahead = ReadAhead(items())
    assert next(iter(ahead)) == 1


def test_reading_ahead_ends_when_nobody_wants_more():
    before = threading.active_count()
    given = []

    def items():
        for number in range(10_000):
            given.append(number)
            yield number

    for number in ReadAhead(items()):
        if number == 3:
            break
    for _ in range(100):
        if threading.active_count() <= before:
            break
        threading.Event().wait(0.05)
    assert threading.active_count() <= before
    assert len(given) < 50


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("block", [1000, 48_000])
def test_a_spool_gives_back_what_was_written(tmp_path, channels, block):
    sound = noise(-20, 1, channels=channels)
    spool = Spool(SignalInfo(RATE, channels, RATE), tmp_path)
    for start in range(0, RATE, block):
        spool.write(sound[:, start : start + block])
    spool.rewind()
    assert np.array_equal(np.concatenate(list(spool.blocks(7_777)), axis=1), sound)
    assert np.array_equal(spool.read(-50, 100), sound[:, :100])
    assert spool.read(RATE - 10, RATE + 100).shape == (channels, 10)
    spool.close()
    assert list(tmp_path.iterdir()) == []


def test_a_spool_without_a_folder_says_so(tmp_path):
    with pytest.raises(UnwritableAudio, match="no room for it in"):
        Spool(SignalInfo(RATE, 1, RATE), tmp_path / "nowhere")


@pytest.mark.parametrize("count", [None, 1])
def test_stages_side_by_side_hand_on_in_order_and_end_together(count):
    first, second, before = [], [], threading.active_count()
    with kept_to(count), SideBySide() as line:
        pushes = line.beside(first.append), line.beside(second.append)
        for number in line.stage(2 * n for n in line.stage(range(50))):
            for push in pushes:
                push(number)
    assert first == second == list(range(0, 100, 2))
    assert threading.active_count() == before


@pytest.mark.parametrize("count", [None, 1])
def test_when_the_end_of_the_line_fails_no_stage_is_left(count):
    before = threading.active_count()

    def endless():
        while True:
            yield 1

    def until_the_disk_is_full():
        with kept_to(count), SideBySide() as line:
            push = line.beside(str)
            for number in line.stage(n + 1 for n in line.stage(endless())):
                push(number)
                raise BadInput("full")

    with pytest.raises(BadInput, match="full"):
        until_the_disk_is_full()
    assert threading.active_count() == before


def test_errors_beside_the_line_are_raised_at_its_end():
    def fail(item):
        raise BadInput("no")

    others = []

    def one_of_two_fails():
        with SideBySide() as line:
            for push in (line.beside(fail), line.beside(others.append)):
                push(1)

    with pytest.raises(BadInput, match="no"):
        one_of_two_fails()
    assert others == [1]


def test_a_limit_of_cores_holds_inside_its_context():
    everything = cores()
    with kept_to(1):
        assert cores() == 1
        with kept_to(None):
            assert cores() == 1
    assert cores() == everything
