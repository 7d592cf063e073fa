"""Batches as JSON."""

from rest_framework import serializers

from zesty_server.batches.models import Batch
from zesty_server.recipes.models import Recipe
from zesty_server.recordings.models import Recording
from zesty_server.runs.serializers import RunSerializer


class BatchSerializer(serializers.ModelSerializer[Batch]):
    """A batch with its runs."""

    runs = RunSerializer(many=True, read_only=True)

    class Meta:
        model = Batch
        fields = ("id", "name", "recipe_name", "recipe_version", "created_at", "runs")
        read_only_fields = fields


class StartBatchSerializer(serializers.Serializer[None]):
    """What to run over what."""

    name = serializers.CharField(required=False, allow_blank=True, max_length=200, default="")
    recipe = serializers.PrimaryKeyRelatedField(queryset=Recipe.objects.all())
    recordings = serializers.PrimaryKeyRelatedField(
        queryset=Recording.objects.filter(deleted_at=None), many=True
    )
