"""Targets and their checks as JSON."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from zesty_core.delivery.end_pieces import LEVEL_LU, LONGEST_OVERLAP_S
from zesty_core.targets.check import file_words, wanted_words
from zesty_core.targets.document import BOUNDED
from zesty_server.http.fields import NumberField, WholeField
from zesty_server.http.kept_json import KeptJsonSerializer
from zesty_server.targets.end_pieces import PLACES, end_piece_sentence
from zesty_server.targets.models import Target


class BoundSerializer(serializers.Serializer[dict[str, Any]]):
    """Inclusive limits of a measure, and where to aim between them."""

    low = NumberField(required=False, allow_null=True)
    high = NumberField(required=False, allow_null=True)
    aim = NumberField(required=False, allow_null=True)


class FileWishSerializer(serializers.Serializer[dict[str, Any]]):
    """What kind of file; what is left out is as the recording is."""

    container = serializers.CharField(required=False, allow_null=True)
    sample_rate_hz = WholeField(required=False, allow_null=True)
    channels = WholeField(required=False, allow_null=True)
    depth = serializers.CharField(required=False, allow_null=True)
    bitrate_kbps = WholeField(required=False, allow_null=True)
    variable = serializers.BooleanField(required=False)


class EndPieceSerializer(KeptJsonSerializer):
    """An intro or outro: which bed, how far it lies over the voice, how loud towards it."""

    bed = serializers.UUIDField()
    overlap_s = NumberField(min_value=0, max_value=LONGEST_OVERLAP_S)
    level_lu = NumberField(min_value=LEVEL_LU[0], max_value=LEVEL_LU[1])


class EndPiecesSerializer(serializers.Serializer[None]):
    """Intro and outro of a target; what is left out stays, null takes away."""

    intro = EndPieceSerializer(required=False, allow_null=True)
    outro = EndPieceSerializer(required=False, allow_null=True)


class TargetSerializer(serializers.ModelSerializer[Target]):
    """A target; the core checks it. ``sentences`` say it in words."""

    bounds = serializers.DictField(child=BoundSerializer(), required=False)
    file = FileWishSerializer(required=False)
    intro = EndPieceSerializer(required=False, allow_null=True)
    outro = EndPieceSerializer(required=False, allow_null=True)
    sentences = serializers.SerializerMethodField(help_text="Its rules in words.")

    class Meta:
        model = Target
        fields = (
            "id",
            "name",
            "description",
            "bounds",
            "file",
            "intro",
            "outro",
            "created_at",
            "sentences",
        )
        extra_kwargs = {"name": {"validators": []}, "description": {"required": False}}  # noqa: RUF012

    def get_sentences(self, target: Target) -> list[str]:
        """One for each rule."""
        document = target.document
        said = [
            f"{BOUNDED[measure].label} {wanted_words(bound, BOUNDED[measure].unit)}"
            for measure, bound in document.bounds.items()
        ]
        file = file_words(document.file)
        pieces = [words for place in PLACES if (words := end_piece_sentence(target, place))]
        return [*said, *([file] if file else []), *pieces]


class RuleSerializer(KeptJsonSerializer):
    """One rule with the figure it was judged by; ``is_met`` null where that cannot be determined."""

    name = serializers.CharField()
    label = serializers.CharField()  # type: ignore[assignment]  # the word on the page
    wanted = serializers.CharField()
    got = serializers.CharField()
    is_met = serializers.BooleanField(allow_null=True)
    off_by = NumberField(allow_null=True)


class BoundedSerializer(serializers.Serializer[dict[str, Any]]):
    """A measure that can be bounded."""

    name = serializers.CharField()
    label = serializers.CharField()  # type: ignore[assignment]  # the word on the page
    unit = serializers.CharField()
    low = NumberField()
    high = NumberField()
    help = serializers.CharField()
