"""A voice over a bed: the dip, the distance, the mix as a file; what cannot be mixed is reported."""

from __future__ import annotations

import hashlib
import io
import json

import mutagen.mp3
import numpy as np
import pytest
import soundfile

from tests.made_sound import RATE, level_db, noise, sine, spoken
from tests.server.conftest import wav
from tests.server.test_sides import parts_of
from zesty_core.bed.distance import distance_of
from zesty_core.bed.mix import MixSource, mixed
from zesty_core.bed.plan import hold_bed, measure_voice, plan_bed
from zesty_core.bed.settings import BedSettings
from zesty_core.delivery.receipt import sha256_of
from zesty_core.foundation.errors import BadInput
from zesty_core.foundation.signal import ArraySource
from zesty_server.beds.models import Bed
from zesty_server.jobs.models import JobState
from zesty_server.mixes import laying
from zesty_server.mixes import services as mixes
from zesty_server.mixes.models import Mix
from zesty_server.recordings.models import Recording
from zesty_server.runs.models import Run


def voice(rate=RATE, channels=1):
    """Silence of the room, speech from 2 to 6 s, silence."""
    sound = np.concatenate(
        [
            np.zeros((channels, 2 * rate), np.float32),
            spoken(4, rate, channels=channels),
            np.zeros((channels, 3 * rate), np.float32),
        ],
        axis=1,
    )
    return ArraySource(sound + noise(-75, 9, rate, channels=channels), rate)


def tone(level_dbfs=-20, duration_s=5, rate=44_100, channels=2):
    return ArraySource(sine(level_dbfs, duration_s, 300, rate, channels=channels), rate)


SETTINGS = BedSettings(voice_start_s=2.0, tail_s=3.0, dip_db=10, attack_ms=200, release_ms=500)


def planned(source, bed, settings):
    info = source.info
    held = hold_bed(bed, info.sample_rate_hz, info.channels)
    return plan_bed(measure_voice(source), held, settings)


def bed_level(plan, source, start_s, end_s):
    _, bed = mixed(source, plan, round(start_s * RATE), round(end_s * RATE))
    return 10 * np.log10(np.mean(np.square(bed, dtype=np.float64)))


def test_the_bed_dips_under_the_words_and_comes_back():
    source = voice()
    plan = planned(source, tone(duration_s=20), SETTINGS)
    alone = bed_level(plan, source, 1.0, 3.0)
    under = bed_level(plan, source, 5.0, 5.5)
    assert under - alone == pytest.approx(-10, abs=0.1)
    # Words begin at about 4 s; the dip is there in time and began no more than the attack before.
    first = np.flatnonzero(plan.speaks)[0] * plan.hop / RATE
    assert bed_level(plan, source, first, first + 0.02) - alone == pytest.approx(-10, abs=0.6)
    assert bed_level(plan, source, first - 0.25, first - 0.22) - alone == pytest.approx(0, abs=0.1)
    assert bed_level(plan, source, 10.5, 11.0) - alone == pytest.approx(0, abs=0.1)
    # It fades out at the end.
    assert bed_level(plan, source, 13.9, 14.0) < alone - 20


def test_the_level_of_the_bed_is_told_from_the_voice():
    source = voice()
    quiet, loud = (
        planned(source, tone(level), BedSettings(level_lu=-6, dip_db=0)) for level in (-40, -10)
    )
    levels = [bed_level(plan, source, 0.5, 2.5) for plan in (quiet, loud)]
    assert levels[0] == pytest.approx(levels[1], abs=0.01)


@pytest.mark.parametrize(("channels", "bed_channels"), [(1, 2), (2, 1), (2, 2)])
def test_channels_and_rates_are_made_to_fit_and_voice_is_untouched(channels, bed_channels):
    source = voice(channels=channels)
    plan = planned(source, tone(channels=bed_channels), SETTINGS)
    own, _ = mixed(source, plan, 0, plan.length_samples)
    assert own.shape == (channels, 14 * RATE)
    assert np.array_equal(own[:, 2 * RATE : 11 * RATE], source.read(0, 9 * RATE))


def test_a_short_bed_goes_round_without_a_gap_and_blocks_do_not_matter():
    source = voice()
    plan = planned(source, tone(duration_s=2), BedSettings(dip_db=0, tail_s=10))
    whole = MixSource(source, plan).read(0, plan.length_samples)
    pieces = np.concatenate([*MixSource(source, plan).blocks(10_007)], axis=1)
    assert np.array_equal(whole, pieces)
    levels = [bed_level(plan, source, t, t + 0.1) for t in np.arange(0, 12, 0.1)]
    assert max(levels) - min(levels) < 3.5


def test_the_gain_of_a_bed_is_a_straight_line_in_decibels_between_its_hops():
    source = voice()
    plan = planned(source, tone(duration_s=20), SETTINGS)
    at = np.arange(plan.length_samples)
    middles = (np.arange(len(plan.dips_db)) + 0.5) * plan.hop
    gain_db = np.interp(at, middles, plan.dips_db + plan.bed_gain_db)
    fade = np.clip((plan.length_samples - at) / (2.0 * RATE), 0.0, 1.0)
    wanted = plan.bed.sound[:, : plan.length_samples] * 10.0 ** (gain_db / 20.0) * fade
    _, bed = mixed(source, plan, 0, plan.length_samples)
    np.testing.assert_allclose(bed, wanted, rtol=0, atol=1e-7)


def test_the_distance_follows_the_dip():
    source = voice()
    deep, flat = (
        distance_of(planned(source, tone(), BedSettings(dip_db=d, attack_ms=10))) for d in (12, 0)
    )
    assert deep["typical_db"] - flat["typical_db"] == pytest.approx(12, abs=0.3)
    assert deep["distance_db"][0] is None
    assert deep["least_db"] < deep["typical_db"]


@pytest.mark.parametrize(
    ("source", "bed", "words"),
    [
        (ArraySource(np.zeros((1, RATE), np.float32), RATE), tone(), "no speech"),
        (voice(), ArraySource(np.zeros((1, 5 * RATE), np.float32), RATE), "is silent"),
        (voice(), tone(duration_s=0.5), "must last 1 to 900 s"),
    ],
)
def test_what_cannot_be_mixed_is_told(source, bed, words):
    with pytest.raises(BadInput, match=words):
        planned(source, bed, SETTINGS)


@pytest.fixture
def run(api):
    made = api.upload(wav(voice().read(0, 9 * RATE)), "Guide.wav").json()
    chain = {"steps": [{"type": "gain", "params": {"gain_db": 3}}]}
    api("put", f"recordings/{made['id']}/chain/", json.dumps(chain))
    return api("post", "runs/", json.dumps({"recording": made["id"]})).json()


@pytest.fixture
def bed(api):
    music = wav(tone().read(0, 5 * 44_100), 44_100, "PCM_16")
    answer = api("post", "beds/upload/?name=Tide.wav", music, "application/octet-stream")
    assert answer.status_code == 201, answer.content
    return answer.json()


def test_a_result_is_heard_over_a_bed(api, run, bed):
    settings = {s["name"] for s in api("get", "bed-settings/").json()}
    assert {"dip_db", "attack_ms", "release_ms", "voice_start_s"} <= settings
    body = {"bed": bed["id"], "params": {"voice_start_s": 1}, "start_s": 2, "end_s": 5}
    head, own, mix = parts_of(api("post", f"runs/{run['id']}/bed/", json.dumps(body)))
    told = json.loads(head)
    assert told["duration_s"] == pytest.approx(1 + 9 + 5)
    assert told["typical_db"] > 10
    # The music is stereo, so the mix is heard as it will be.
    assert told["channels"] == 2
    assert len(own) == len(mix) == 3 * RATE * 4 * 2
    assert own != mix


@pytest.fixture
def mixed_file(api, run, bed):
    """Order a mix; gives its row and its bytes."""

    def order(**more):
        body = {"run": run["id"], "bed": bed["id"], "params": {"voice_start_s": 1}, **more}
        answer = api("post", "mixes/", json.dumps(body))
        assert answer.status_code == 201, answer.content
        mix = api("get", f"mixes/{answer.json()['id']}/").json()
        assert mix["state"] == "done", mix["error"]
        return mix, b"".join(api("get", f"mixes/{mix['id']}/file/").streaming_content)

    return order


def test_a_mix_is_delivered_with_its_receipt(api, mixed_file, run, bed):
    mix, data = mixed_file()
    assert mix["file_name"] == "Guide over Tide.wav"
    sound, rate = soundfile.read(io.BytesIO(data))
    assert len(sound) == 15 * rate
    assert np.abs(sound).max() <= 10 ** (-1 / 20)
    assert [m["id"] for m in api("get", f"mixes/?recording={run['recording']}").json()] == [
        mix["id"]
    ]
    receipt = json.loads(b"".join(api("get", f"mixes/{mix['id']}/receipt/").streaming_content))
    # From the recording, through the voice's chain, over the bed, to the file.
    recording = Recording.objects.get()
    assert receipt["recording"]["sha256"] == recording.sha256
    assert [step["type"] for step in receipt["chain"]] == ["gain", "limiter"]
    assert len(receipt["steps"]) == 2
    assert receipt["bed"]["sha256"] == sha256_of(Bed.objects.get().path)
    assert receipt["bed"]["params"]["voice_start_s"] == 1
    assert receipt["before"]["voice_level_dbfs"] == recording.measures["voice_level_dbfs"]
    assert receipt["after"]["clearance_db"] is None
    assert receipt["file"]["sha256"] == hashlib.sha256(data).hexdigest() == mix["sha256"]
    page = api("get", f"mixes/{mix['id']}/receipt-page/").content.decode()
    assert "After step 1 the voice is laid over the bed \u201cTide\u201d" in page
    assert mixed_file()[1] == data


def test_a_mix_meets_its_target_in_its_format_with_tags(api, mixed_file):
    target = {
        "name": "Stereo show",
        "bounds": {
            "integrated_lufs": {"low": -17, "high": -15, "aim": -16},
            "true_peak_dbtp": {"high": -1},
            "noise_floor_dbfs": {"high": -60},
            "head_s": {"low": 0.5, "high": 1},
        },
        "file": {"container": "MP3", "channels": 2, "bitrate_kbps": 128},
    }
    kept = api("post", "targets/", json.dumps(target)).json()
    mix, data = mixed_file(target=kept["id"], name="Low water: one", tags={"title": "One"})
    assert mix["file_name"] == "Low water - one.mp3"
    # Music stands where the voice alone would have to be silent: that is not asked of a mix.
    assert {r["name"]: r["is_met"] for r in mix["rules"]} == dict.fromkeys(
        ("integrated_lufs", "true_peak_dbtp", "container", "channels", "bitrate_kbps"), True
    )
    assert mix["measures"]["integrated_lufs"] == pytest.approx(-16, abs=0.2)
    assert mutagen.mp3.EasyMP3(io.BytesIO(data))["title"] == ["One"]


def test_the_music_keeps_its_sides_unless_mono_is_asked_for(api, run, mixed_file):
    left = tone().read(0, 5 * 44_100) * np.float32([[1], [0]])
    one_sided = api(
        "post", "beds/upload/?name=Left.wav", wav(left, 44_100), "application/octet-stream"
    )
    order = {"bed": one_sided.json()["id"], "params": {"dip_db": 0}}
    _, data = mixed_file(**order)
    sound, rate = soundfile.read(io.BytesIO(data))
    left, right = sound[: 2 * rate].T
    assert level_db(left) > level_db(right) + 60
    # The voice is on both.
    assert level_db(sound[4 * rate : 7 * rate, 1]) > -30
    _, data = mixed_file(**order, file={"channels": 1})
    assert soundfile.info(io.BytesIO(data)).channels == 1


def test_a_mix_whose_worker_died_is_made_again_from_the_start(mixed_file, looking):
    mix, data = mixed_file()
    stored = Mix.objects.get()
    left = stored.folder / ".zesty-left" / "delivery.wav"
    left.parent.mkdir()
    left.write_bytes(b"half a file")
    Mix.objects.update(state=JobState.RUNNING, tries=1, sha256="")
    looking.after()
    stored.refresh_from_db()
    assert (stored.state, stored.tries, stored.sha256) == (JobState.DONE, 2, mix["sha256"])
    assert stored.path.read_bytes() == data
    assert not left.exists()


def test_a_mix_ends_when_its_bed_is_gone_and_can_be_removed(api, run, bed, mixed_file, looking):
    mix, _ = mixed_file()
    stored = Mix.objects.get()
    folder = stored.folder
    Mix.objects.update(state=JobState.WAITING)
    assert api("get", f"mixes/{mix['id']}/file/").status_code == 404
    api("delete", f"beds/{bed['id']}/")
    looking.after()
    stored.refresh_from_db()
    assert (stored.state, stored.error) == (
        JobState.FAILED,
        "Tide: was deleted; bring it in again",
    )
    assert not folder.exists()
    assert api("delete", f"mixes/{mix['id']}/").status_code == 204


def test_a_mix_deleted_while_it_is_made_leaves_nothing(api, run, bed, monkeypatch):
    making = mixes.deliver

    def deleted_meanwhile(*arguments, **more):
        Mix.objects.all().delete()
        return making(*arguments, **more)

    monkeypatch.setattr(mixes, "deliver", deleted_meanwhile)
    api("post", "mixes/", json.dumps({"run": run["id"], "bed": bed["id"]}))
    assert api("get", "mixes/").json() == []
    assert list((Run.objects.get().home / "mixes").iterdir()) == []


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"params": {"dip_db": 99}}, "dip_db"),
        ({"file": {"container": "MP3", "depth": "16"}}, "file.depth"),
        ({"tags": {"colour": "red"}}, "tags"),
        ({"cover": "0" * 64}, "cover"),
        ({"run": "00000000-0000-0000-0000-000000000000"}, "run"),
    ],
)
def test_a_mix_that_cannot_be_made_is_refused_before_it_is_begun(api, run, bed, change, path):
    body = {"run": run["id"], "bed": bed["id"]} | change
    answer = api("post", "mixes/", json.dumps(body))
    assert answer.status_code == 400
    assert answer.json()["error"]["path"].startswith(path)
    assert not Mix.objects.exists()


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"params": {"dip_db": 99}}, "dip_db"),
        ({"params": {"colour": 1}}, "colour"),
        ({"end_s": 99}, "passage"),
        ({"bed": "00000000-0000-0000-0000-000000000000"}, "bed"),
    ],
)
def test_what_does_not_fit_is_refused(api, run, bed, change, path):
    body = {"bed": bed["id"], "start_s": 0, "end_s": 2} | change
    answer = api("post", f"runs/{run['id']}/bed/", json.dumps(body))
    assert answer.status_code == 400
    assert answer.json()["error"]["path"] == path


def test_what_is_no_music_is_not_kept(api, bed):
    bad = api("post", "beds/upload/?name=x.wav", b"RIFF nonsense", "application/octet-stream")
    assert bad.status_code == 400
    assert Bed.objects.count() == 1
    assert api("delete", f"beds/{bed['id']}/").status_code == 204
    assert api("get", "beds/").json() == []


def test_voice_and_bed_are_measured_once_however_often_settings_turn(api, run, bed, monkeypatch):
    measured = []
    monkeypatch.setattr(laying, "measure_voice", lambda v: measured.append(v) or measure_voice(v))
    answers = set()
    for dip_db in (6, 12, 18):
        body = {"bed": bed["id"], "params": {"dip_db": dip_db}, "start_s": 0, "end_s": 1}
        head, *_ = parts_of(api("post", f"runs/{run['id']}/bed/", json.dumps(body)))
        answers.add(json.loads(head)["typical_db"])
    assert len(measured) == 1
    assert len(answers) == 3
