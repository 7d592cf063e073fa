"""Looks at a stretch of sound as JSON."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from zesty_server.http.fields import NumberField, WholeField


class SpanQuerySerializer(serializers.Serializer[dict[str, Any]]):
    """Which stretch; to the end when no end is given."""

    start_s = NumberField(min_value=0, default=0.0)
    end_s = NumberField(min_value=0, required=False)


class StretchQuerySerializer(SpanQuerySerializer):
    """Which stretch, of which side."""

    side = serializers.ChoiceField(
        ("after", "before"), required=False, help_text="Of a result: what came out, or went in."
    )


class OverviewQuerySerializer(StretchQuerySerializer):
    """Which stretch, and how many bins at most."""

    bins = WholeField(min_value=1, max_value=4000, default=1000)


class OverviewSerializer(serializers.Serializer[dict[str, Any]]):
    """Lowest, highest and RMS value of each bin; a bin of one sample is that sample."""

    bin_s = NumberField()
    start_s = NumberField()
    low = serializers.ListField(child=NumberField())
    high = serializers.ListField(child=NumberField())
    rms = serializers.ListField(child=NumberField())


class SpectrogramQuerySerializer(StretchQuerySerializer):
    """Which stretch, in how many columns of time and rows of frequency."""

    columns = WholeField(min_value=1, max_value=1600, default=800)
    rows = WholeField(min_value=8, max_value=200, default=96)


class SpectrogramSerializer(serializers.Serializer[dict[str, Any]]):
    """Levels in dBFS: ``floor_db + step_db * byte``, row by row from the lowest frequency."""

    start_s = NumberField()
    end_s = NumberField()
    columns = WholeField()
    freqs_hz = serializers.ListField(child=NumberField())
    floor_db = NumberField()
    step_db = NumberField()
    values = serializers.CharField(help_text="Bytes in base64.")


class TimeSeriesQuerySerializer(StretchQuerySerializer):
    """Which stretch, in at most how many points of time."""

    points = WholeField(min_value=10, max_value=2000, default=400)


class TimeSeriesSerializer(serializers.Serializer[dict[str, Any]]):
    """Loudness over time, share of time at each decibel, average spectrum."""

    start_s = NumberField()
    end_s = NumberField()
    step_s = NumberField()
    momentary_lufs = serializers.ListField(child=NumberField(allow_null=True))
    short_term_lufs = serializers.ListField(child=NumberField(allow_null=True))
    integrated_lufs = NumberField(allow_null=True)
    lowest_dbfs = WholeField()
    levels = serializers.ListField(child=NumberField())
    freqs_hz = serializers.ListField(child=NumberField())
    spectrum_dbfs = serializers.ListField(child=NumberField(), allow_null=True)


class FiguresSerializer(serializers.Serializer[dict[str, Any]]):
    """Figures of a stretch; null where they cannot be determined."""

    duration_s = NumberField()
    sample_peak_dbfs = NumberField(allow_null=True)
    true_peak_dbtp = NumberField(allow_null=True)
    rms_dbfs = NumberField(allow_null=True)
    integrated_lufs = NumberField(allow_null=True)
