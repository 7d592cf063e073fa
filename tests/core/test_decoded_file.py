"""Files decoded to disk: bounded by the disk's space and by their own size."""

from __future__ import annotations

import shutil
from types import SimpleNamespace

import av
import numpy as np
import pytest

from tests.core.test_encoding import m4a
from tests.made_sound import RATE, noise
from zesty_core.audio import decoded
from zesty_core.audio.decoded_file import decode_file, read_head
from zesty_core.audio.reader import AudioFile
from zesty_core.foundation import spool as spools
from zesty_core.foundation.errors import UnreadableAudio, UnwritableAudio
from zesty_core.foundation.signal import SignalInfo
from zesty_core.foundation.spool import RESERVE_BYTES, Spool


def silent_matroska(path, duration_s):
    """Silence as FLAC in Matroska: a few bytes for every second."""
    with av.open(str(path), "w", format="matroska") as out:
        stream = out.add_stream("flac", rate=RATE, layout="stereo")
        frame = av.AudioFrame.from_ndarray(np.zeros((1, 2 * 4096), np.int16), "s16", "stereo")
        frame.sample_rate = RATE
        for n in range(duration_s * RATE // 4096):
            frame.pts = n * 4096
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path


def free(monkeypatch, size_bytes):
    monkeypatch.setattr(shutil, "disk_usage", lambda _: SimpleNamespace(free=size_bytes))


def test_the_head_is_read_without_decoding(tmp_path, monkeypatch):
    path = m4a(tmp_path / "a.m4a", noise(-20, 3))
    monkeypatch.setattr(decoded.Decoder, "decode", lambda *_: 1 / 0)
    head = read_head(path, "a.m4a")
    assert head.is_compressed
    assert head.info.duration_s == pytest.approx(3.0, abs=0.1)


def test_silence_that_grows_out_of_all_proportion_is_refused(tmp_path, monkeypatch):
    path = silent_matroska(tmp_path / "bomb.mka", 120)
    size = path.stat().st_size
    assert 120 * RATE * 8 / size > decoded.MOST_GROWTH  # as was found: some thousand times
    assert AudioFile(path).info.duration_s == pytest.approx(120, abs=1)  # small enough all the same
    monkeypatch.setattr(decoded, "_ALWAYS_ALLOWED_BYTES", 1_000_000)
    for opened in (lambda: read_head(path, "bomb.mka"), lambda: AudioFile(path)):
        with pytest.raises(UnreadableAudio, match=r"bomb.mka: decodes to more than .* 1000 times"):
            opened()


def test_a_header_that_lies_is_found_out_while_decoding(tmp_path, monkeypatch):
    path = silent_matroska(tmp_path / "bomb.mka", 60)
    monkeypatch.setattr(decoded, "_ALWAYS_ALLOWED_BYTES", 1_000_000)
    monkeypatch.setattr(decoded.Decoder, "check_growth", checked_from_here(2))
    out = tmp_path / "decoded.wav"
    with pytest.raises(UnreadableAudio, match="decodes to more than"):
        decode_file(path, "bomb.mka", out)
    assert [p.name for p in tmp_path.iterdir()] == ["bomb.mka"]


def checked_from_here(times):
    """The check, blind for the first calls."""
    original, calls = decoded.Decoder.check_growth, []

    def check(self, samples):
        calls.append(samples)
        if len(calls) > times:
            original(self, samples)

    return check


def test_decoding_stops_before_the_disk_is_full(tmp_path, monkeypatch):
    path = m4a(tmp_path / "a.m4a", noise(-20, 3))
    free(monkeypatch, RESERVE_BYTES + 1_000)
    with pytest.raises(UnwritableAudio, match="200 MB stay in reserve"):
        decode_file(path, "a.m4a", tmp_path / "decoded.wav")
    with pytest.raises(UnwritableAudio, match="200 MB stay in reserve"):
        AudioFile(path)
    assert [p.name for p in tmp_path.iterdir()] == ["a.m4a"]


def test_a_spool_asks_for_space_before_it_grows(tmp_path, monkeypatch):
    spool = Spool(SignalInfo(RATE, 1, RATE), tmp_path)
    spool.write(noise(-20, 1))
    spool.restart()
    free(monkeypatch, RESERVE_BYTES)
    spool.write(noise(-20, 1))  # takes no more than it has
    with pytest.raises(UnwritableAudio, match="make room"):
        Spool(SignalInfo(RATE, 1, RATE), tmp_path).write(noise(-20, 1))


def test_spools_lie_where_the_program_says(tmp_path, monkeypatch):
    monkeypatch.setattr(spools, "_default_folder", None)
    spools.keep_spools_in(tmp_path / "work")
    with pytest.raises(UnwritableAudio, match="work"):
        Spool(SignalInfo(RATE, 1, RATE), None)
    (tmp_path / "work").mkdir()
    assert Spool(SignalInfo(RATE, 1, RATE), None)
