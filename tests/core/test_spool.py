"""Sound kept on disk between passes."""

from __future__ import annotations

import threading

import numpy as np
import pytest

from tests.made_sound import RATE, noise
from zesty_core.foundation.errors import UnwritableAudio
from zesty_core.foundation.signal import SignalInfo
from zesty_core.foundation.spool import Spool


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


def test_several_read_a_spool_at_a_time(tmp_path):
    """A recording that had to be decoded is read by its run and for what it is compared with."""
    ramp = np.arange(64 * 4096, dtype=np.float32)[None]
    spool = Spool(SignalInfo(RATE, 1, ramp.shape[1]), tmp_path)
    spool.write(ramp)
    spool.rewind()
    wrong = []

    def look(first):
        for start in range(first, ramp.shape[1] - 4096, 8 * 4096):
            for _ in range(20):
                if spool.read(start, start + 4096)[0, 0] != start:
                    wrong.append(start)

    threads = [threading.Thread(target=look, args=(4096 * n,)) for n in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    spool.close()
    assert wrong == []


def test_a_spool_without_a_folder_says_so(tmp_path):
    with pytest.raises(UnwritableAudio, match="no room for it in"):
        Spool(SignalInfo(RATE, 1, RATE), tmp_path / "nowhere")
