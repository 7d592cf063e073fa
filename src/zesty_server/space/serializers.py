"""Space on the disk as JSON."""

from __future__ import annotations

from datetime import datetime, timedelta

from rest_framework import serializers

from zesty_server.http.fields import WholeField
from zesty_server.recordings.models import Recording
from zesty_server.recordings.services import KEPT_DAYS
from zesty_server.space.selectors import Space, Taken, size_of


class TakenSerializer(serializers.Serializer[Taken]):
    """What one kind of things takes."""

    kind = serializers.ChoiceField(
        choices=(
            "recordings",
            "decoded",
            "results",
            "earlier_results",
            "deliveries",
            "beds",
            "put_away",
            "unfinished",
        )
    )
    count = WholeField()
    size_bytes = WholeField()


class SpaceSerializer(serializers.Serializer[Space]):
    """All kinds, and what is left."""

    free_bytes = WholeField()
    kinds = TakenSerializer(many=True)


class PutAwaySerializer(serializers.ModelSerializer[Recording]):
    """A deleted recording that can be taken back."""

    size_bytes = serializers.SerializerMethodField(help_text="With all that was made of it.")
    goes_at = serializers.SerializerMethodField(help_text="From when on it may go for good.")

    class Meta:
        model = Recording
        fields = ("id", "name", "label", "deleted_at", "goes_at", "size_bytes")

    def get_size_bytes(self, recording: Recording) -> int:
        """Bytes on the disk."""
        return size_of(recording)

    def get_goes_at(self, recording: Recording) -> datetime:
        """So many days after it was deleted."""
        assert recording.deleted_at is not None
        return recording.deleted_at + timedelta(days=KEPT_DAYS)
