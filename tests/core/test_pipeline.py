"""Blocks through the stages of a pass, on one core and on several."""

from __future__ import annotations

import threading

import numpy as np
import pytest

from tests.made_sound import noise
from zesty_core.foundation.errors import BadInput
from zesty_core.runtime.cores import cores, kept_to
from zesty_core.runtime.pipeline import Pipeline

CORES = pytest.mark.parametrize("count", [1, 2, 3])
SOUND = noise(-20, 1)


def blocks(size=1000):
    return (SOUND[:, start : start + size] for start in range(0, SOUND.shape[1], size))


class Late:
    """Gives everything so many samples later, some of it only at the end; must not be hurried."""

    def __init__(self, samples):
        self.held, self.samples = SOUND[:, :0], samples
        self.busy = threading.Lock()

    def push(self, block):
        assert self.busy.acquire(blocking=False), "two blocks at once"
        held = np.concatenate([self.held, block], axis=1)
        ready = max(0, held.shape[1] - self.samples)
        self.held = held[:, ready:]
        self.busy.release()
        return held[:, :ready]

    def finish(self):
        return self.held

    def report(self):
        return {}


@CORES
def test_blocks_pass_all_stages_in_order_and_whole(count):
    before, seen, arrived, told = threading.active_count(), [], [], []
    with kept_to(count):
        line = Pipeline(blocks())
        line.past(seen.append)
        line.process_blocks(Late(2500))
        line.process_blocks(Late(300))
        line.past(arrived.append)
        line.run(lambda done: told.append((done, threading.current_thread())))
    assert np.array_equal(np.concatenate(seen, axis=1), SOUND)
    assert np.array_equal(np.concatenate(arrived, axis=1), SOUND)
    assert all(block.shape[1] for block in arrived)
    assert {thread for _, thread in told} == {threading.current_thread()}
    assert [done for done, _ in told] == sorted(done for done, _ in told)
    assert 0.9 * SOUND.shape[1] < told[-1][0] <= SOUND.shape[1]
    assert threading.active_count() == before


@CORES
@pytest.mark.parametrize("where", ["source", "stage", "end", "watch"])
def test_an_error_anywhere_stops_all_of_it_and_comes_back(count, where):
    before, arrived = threading.active_count(), []

    def fail(*_):
        raise BadInput(where)

    def endless():
        yield from blocks()
        while where != "source":
            yield SOUND
        fail()

    with kept_to(count):
        line = Pipeline(endless())
        line.process_blocks(Late(10))
        line.past(fail if where == "stage" else id)
        line.past(fail if where == "end" else arrived.append)
        with pytest.raises(BadInput, match=where):
            line.run(fail if where == "watch" else id)
    assert threading.active_count() == before
    assert len(arrived) <= SOUND.shape[1] // 1000


@CORES
def test_a_line_without_blocks_or_stages_ends(count):
    with kept_to(count):
        line, arrived = Pipeline(()), []
        line.process_blocks(Late(10))
        line.past(arrived.append)
        line.run()
        Pipeline(blocks()).run()
    assert arrived == []


def test_a_limit_of_cores_holds_inside_its_context():
    everything = cores()
    with kept_to(1):
        assert cores() == 1
        with kept_to(None):
            assert cores() == 1
    assert cores() == everything
