"""Rows kept by earlier versions are read under today's names."""

from __future__ import annotations

import pytest

from zesty_server.recordings.models import Recording
from zesty_server.renamed_measures import rename_in


@pytest.mark.django_db
def test_kept_measures_and_findings_get_the_new_names():
    old = Recording.objects.create(
        name="a",
        original_name="a.wav",
        size_bytes=1,
        measures={
            "room_tones": [{"moves_db": 1.5}],
            "louder_room": {"rise_db": 6.0},
            "moments": {"phrases": []},
        },
        advice=[{"code": "louder_room", "message": "louder_room stays within sentences"}],
        dismissed=["louder_room", "hum"],
    )
    untouched = Recording.objects.create(name="b", original_name="b.wav", size_bytes=1)
    rename_in(Recording, ("measures", "advice", "dismissed"))
    old.refresh_from_db()
    assert old.measures == {
        "room_tones": [{"level_spread_db": 1.5}],
        "noise_floor_shift": {"rise_db": 6.0},
        "speech_events": {"phrases": []},
    }
    assert old.advice == [
        {"code": "noise_floor_shift", "message": "louder_room stays within sentences"}
    ]
    assert old.dismissed == ["noise_floor_shift", "hum"]
    untouched.refresh_from_db()
    assert untouched.measures is None
