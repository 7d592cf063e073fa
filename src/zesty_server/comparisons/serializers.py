"""Blind picks as JSON."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from zesty_core.foundation.errors import BadInput
from zesty_server.comparisons.models import BlindPick, Tasting
from zesty_server.comparisons.sides import Side
from zesty_server.http.fields import NumberField, WholeField
from zesty_server.recipes.serializers import StepSerializer
from zesty_server.recordings.looking_serializers import TimeSeriesSerializer
from zesty_server.recordings.serializers import MeasuresSerializer


class BlindPickSerializer(serializers.ModelSerializer[BlindPick]):
    """Picks of some rounds, and what they are worth."""

    chain = StepSerializer(many=True)
    picked_after = serializers.ListField(child=serializers.BooleanField())
    rounds = WholeField(read_only=True)
    count_after = WholeField(read_only=True)
    chance = NumberField(read_only=True, help_text="How often guessing would lean as far, 0 to 1.")
    verdict = serializers.CharField(read_only=True)

    class Meta:
        model = BlindPick
        fields = (
            "id",
            "recording",
            "chain",
            "start_s",
            "end_s",
            "picked_after",
            "rounds",
            "count_after",
            "chance",
            "verdict",
            "created_at",
        )


class SideSerializer(serializers.Serializer[Side]):
    """One sound to set beside others."""

    kind = serializers.ChoiceField(("before", "chain", "run", "recording"))
    steps = StepSerializer(many=True, required=False, help_text="Of a chain.")
    upto = WholeField(
        required=False, allow_null=True, min_value=0, help_text="How many steps it has passed."
    )
    of = serializers.UUIDField(required=False, help_text="Which run, or which recording.")
    start_s = NumberField(
        required=False, min_value=0, help_text="Where the passage begins in another recording."
    )

    def to_internal_value(self, data: Any) -> Any:
        """As the services want it; steps as they came, the core checks them."""
        checked = super().to_internal_value(data)
        of = checked.get("of")
        return Side(
            checked["kind"],
            data.get("steps") or [],
            checked.get("upto"),
            str(of) if of else None,
            checked.get("start_s"),
        )


class SidesSerializer(serializers.Serializer[None]):
    """Which sides of which passage."""

    start_s = NumberField(min_value=0)
    end_s = NumberField(min_value=0)
    sides = SideSerializer(many=True)


class VersionsSerializer(SidesSerializer):
    """Which sides of which passage to show a client, and what each is called there."""

    names = serializers.ListField(child=serializers.CharField(max_length=200))

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        """As many names as sides."""
        if len(data["names"]) != len(data["sides"]):
            raise BadInput(
                f"names: must be {len(data['sides'])}, one for each side, got {len(data['names'])}",
                path="names",
            )
        return data


class SidesHeadSerializer(serializers.Serializer[None]):
    """What comes first."""

    sample_rate_hz = WholeField()
    start_s = NumberField()
    end_s = NumberField()
    count = WholeField()


class ToldSideSerializer(serializers.Serializer[None]):
    """Figures of one side; its samples follow. With ``error`` there is nothing else."""

    error = serializers.CharField(required=False)
    channels = WholeField()
    note = serializers.CharField(allow_null=True)
    measures = MeasuresSerializer()
    time_series = TimeSeriesSerializer()
    differences = serializers.ListField(
        child=serializers.CharField(), help_text="From the first side, in plain words."
    )
    voice_gain_db = NumberField(allow_null=True, help_text="Gain of the voice from the first side.")


class SidesToldSerializer(serializers.Serializer[None]):
    """The JSON parts of the answer."""

    head = SidesHeadSerializer()
    side = ToldSideSerializer()


class TastedSerializer(serializers.Serializer[None]):
    """One treatment, its note."""

    label = serializers.CharField(max_length=200)  # type: ignore[assignment]
    steps = StepSerializer(
        many=True, allow_null=True, help_text="Null of a take or a result, which has none to set."
    )
    note = serializers.CharField(required=False, allow_blank=True, max_length=2000, default="")


class TastingSerializer(serializers.ModelSerializer[Tasting]):
    """A tasting; entries best liked first."""

    entries = TastedSerializer(many=True)

    class Meta:
        model = Tasting
        fields = ("id", "recording", "start_s", "end_s", "blind", "entries", "created_at")
