"""Recipes and step types as JSON."""

from typing import Any

from rest_framework import serializers

from zesty_server.http.fields import MOST_KEPT, NumberField, WholeField
from zesty_server.http.kept_json import KeptJsonSerializer
from zesty_server.recipes.models import Recipe, RecipeVersion, SavedSettings
from zesty_server.recipes.selectors import sentences


class StepSerializer(KeptJsonSerializer):
    """A step of a chain, as in the recipe document. The core checks the settings."""

    type = serializers.CharField()
    enabled = serializers.BooleanField(default=True)
    params = serializers.DictField(default=dict)


class RecipeSerializer(serializers.ModelSerializer[Recipe]):
    """A recipe and what it does."""

    steps = StepSerializer(many=True)
    sentences = serializers.SerializerMethodField(help_text="What each step does, in plain words.")

    class Meta:
        model = Recipe
        fields = (
            "id",
            "name",
            "description",
            "group",
            "steps",
            "version",
            "created_at",
            "updated_at",
            "sentences",
        )
        read_only_fields = ("version",)
        # Uniqueness is checked by the service, with the same message for every caller.
        extra_kwargs = {  # noqa: RUF012
            "name": {"validators": []},
            "description": {"required": False},
            "group": {"required": False},
        }

    def get_sentences(self, recipe: Recipe) -> list[str]:
        """Made from the settings."""
        return sentences(recipe.steps)


class RecipeVersionSerializer(serializers.ModelSerializer[RecipeVersion]):
    """A version of a recipe."""

    steps = StepSerializer(many=True)
    runs = WholeField(read_only=True, help_text="Runs made with it.")

    class Meta:
        model = RecipeVersion
        fields = ("version", "steps", "created_at", "runs")


class UseSerializer(serializers.Serializer[dict[str, Any]]):
    """Where a recipe is used."""

    recordings = serializers.ListField(child=serializers.DictField())
    batches = serializers.ListField(child=serializers.DictField())
    versions = RecipeVersionSerializer(many=True)


class GoBackSerializer(serializers.Serializer[None]):
    """A version to go back to."""

    version = WholeField(min_value=1, max_value=MOST_KEPT)


class SavedSettingsSerializer(serializers.ModelSerializer[SavedSettings]):
    """One step's settings under a name."""

    params = serializers.DictField()

    class Meta:
        model = SavedSettings
        fields = ("id", "type", "name", "params", "created_at")
        # Settings of a name that is taken are replaced.
        validators: tuple[()] = ()


class UnitBySerializer(serializers.Serializer[dict[str, Any]]):
    """The choice that decides a unit, and the unit for each."""

    setting = serializers.CharField()
    units = serializers.DictField(child=serializers.CharField())


class SettingSerializer(serializers.Serializer[dict[str, Any]]):
    """Declaration of one setting."""

    name = serializers.CharField()
    kind = serializers.ChoiceField(("number", "numbers", "choice", "switch", "records"))
    label = serializers.CharField()  # type: ignore[assignment]  # the word on the page
    help = serializers.CharField()
    unit = serializers.CharField()
    low = NumberField(allow_null=True)
    high = NumberField(allow_null=True)
    usual = serializers.ListField(child=NumberField(), allow_null=True)
    usual_following = serializers.ListField(
        child=NumberField(),
        allow_null=True,
        required=False,
        help_text="Usual range while the step follows the voice.",
    )
    increment = NumberField(allow_null=True)
    scale = serializers.ChoiceField(("linear", "log"))
    choices = serializers.ListField(child=serializers.JSONField())
    words = serializers.DictField(
        child=serializers.CharField(), help_text="What choices are called on the page."
    )
    unit_by = UnitBySerializer(
        allow_null=True, help_text="Where another setting's choice decides the unit."
    )
    word = serializers.CharField(allow_null=True)
    most = WholeField(allow_null=True)
    matters_for = serializers.ListField(child=serializers.CharField())
    record = serializers.ListField(
        child=serializers.DictField(),
        allow_null=True,
        help_text="Settings of one entry of a list; each has the shape of a setting.",
    )
    default = serializers.JSONField()


class StarterSettingsSerializer(serializers.Serializer[dict[str, Any]]):
    """Settings to start from, named by what they are for."""

    name = serializers.CharField()
    params = serializers.DictField()


class StepProviderSerializer(serializers.Serializer[dict[str, Any]]):
    """The package that brings a step."""

    package = serializers.CharField()
    version = serializers.CharField()


class StepTypeSerializer(serializers.Serializer[dict[str, Any]]):
    """A kind of step with its settings."""

    type = serializers.CharField()
    label = serializers.CharField()  # type: ignore[assignment]  # the word on the page
    summary = serializers.CharField()
    settings = SettingSerializer(many=True)
    starters = StarterSettingsSerializer(many=True)
    provided_by = StepProviderSerializer(
        allow_null=True, help_text="Null for the product's own steps."
    )
