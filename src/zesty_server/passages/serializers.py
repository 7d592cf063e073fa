"""Passages as JSON, besides their sound."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from zesty_server.http.fields import NumberField, WholeField
from zesty_server.recordings.serializers import FindingSerializer, LevelsSerializer
from zesty_server.runs.serializers import PointSerializer


class PassageStepsSerializer(serializers.Serializer[None]):
    """A chain as it is being set; checked as recipes are."""

    steps = serializers.ListField(child=serializers.DictField())


class PassageRequestSerializer(PassageStepsSerializer):
    """Which passage of a recording to hear through which chain."""

    start_s = NumberField(help_text="In times of what the cuts leave.")
    end_s = NumberField()
    with_before = serializers.BooleanField(default=True)
    opened = WholeField(
        allow_null=True, default=None, help_text="Place of the step whose picture is wanted."
    )


class PassageHeadSerializer(serializers.Serializer[dict[str, Any]]):
    """What comes before the samples."""

    sample_rate_hz = WholeField()
    channels = WholeField()
    start_s = NumberField()
    end_s = NumberField()
    before_lufs = NumberField(allow_null=True)
    after_lufs = NumberField(allow_null=True)
    voice_gain_db = NumberField(
        allow_null=True,
        help_text="Gain of the voice from before to after, taken off what is removed.",
    )
    is_settled = serializers.BooleanField(help_text="Sounds exactly as the whole run will.")
    can_settle = serializers.BooleanField()


class LivePointSerializer(serializers.Serializer[dict[str, Any]]):
    """Levels of the whole after one step, and what it did to the passage."""

    type = serializers.CharField()
    sentence = serializers.CharField()
    levels = LevelsSerializer()
    report = serializers.DictField()
    is_settled = serializers.BooleanField()


class PictureSpectrumSerializer(serializers.Serializer[dict[str, Any]]):
    """Levels over frequency, in dBFS."""

    freqs_hz = serializers.ListField(child=NumberField())
    before = serializers.ListField(child=NumberField())
    after = serializers.ListField(child=NumberField())
    tone_before = serializers.ListField(child=NumberField(), required=False)
    tone_after = serializers.ListField(child=NumberField(), required=False)
    noise_learned = serializers.ListField(
        child=NumberField(), required=False, help_text="Where there is no room tone."
    )


class PictureLevelsSerializer(serializers.Serializer[dict[str, Any]]):
    """Share of time at each level, from the lowest up in steps of a decibel."""

    lowest_dbfs = NumberField()
    before = serializers.ListField(child=NumberField())
    after = serializers.ListField(child=NumberField())


class PictureCurveSerializer(serializers.Serializer[dict[str, Any]]):
    """Level out over level in."""

    in_dbfs = serializers.ListField(child=NumberField())
    out_dbfs = serializers.ListField(child=NumberField())


class ResonanceSerializer(serializers.Serializer[dict[str, Any]]):
    """A narrow peak and how far it stands over its octave."""

    freq_hz = NumberField()
    over_db = NumberField()


class DecaySerializer(serializers.Serializer[dict[str, Any]]):
    """How a click rings on."""

    bin_s = NumberField()
    levels_db = serializers.ListField(child=NumberField())


class StepPictureSerializer(serializers.Serializer[dict[str, Any]]):
    """What there is to see of one step."""

    spectrum = PictureSpectrumSerializer()
    levels = PictureLevelsSerializer()
    work = serializers.ListField(child=serializers.ListField(child=NumberField(allow_null=True)))
    curve = PictureCurveSerializer(required=False)
    curves = PictureCurveSerializer(many=True, required=False)
    band_levels = serializers.ListField(
        child=serializers.ListField(child=NumberField()), required=False
    )
    response_db = serializers.ListField(child=NumberField(), required=False)
    depth_db = serializers.ListField(child=NumberField(), required=False)
    resonances = ResonanceSerializer(many=True, required=False)
    decay = DecaySerializer(required=False)


class PassageTailSerializer(serializers.Serializer[dict[str, Any]]):
    """What comes behind the samples."""

    before = LevelsSerializer()
    points = LivePointSerializer(many=True)
    advice = FindingSerializer(many=True)
    picture = StepPictureSerializer(allow_null=True)


class PassageToldSerializer(serializers.Serializer[dict[str, Any]]):
    """Head and tail; for the description alone."""

    head = PassageHeadSerializer()
    tail = PassageTailSerializer()


class SettledSerializer(serializers.Serializer[dict[str, Any]]):
    """Levels and reports of the whole recording."""

    points = PointSerializer(many=True)
