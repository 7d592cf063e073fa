"""Recordings, measures and overviews as JSON."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from zesty_core.audio.edits import INSERT_KINDS, LONGEST_INSERT_S
from zesty_core.audio.fades import LONGEST_FADE_S
from zesty_core.audio.markers import MOST_LETTERS
from zesty_core.chain.recipe import chain_from_json
from zesty_core.foundation.speakers import MOST_SPEAKERS
from zesty_core.measures.pauses import LONGEST_S, SHORTEST_S
from zesty_core.measures.proposed_passage import proposed_passage
from zesty_core.measures.speech_events import Phrase
from zesty_server.accounts.one_of import OneOf
from zesty_server.http.fields import MOST_KEPT, NumberField, WholeField
from zesty_server.http.kept_json import KeptJsonSerializer
from zesty_server.recipes.models import Recipe
from zesty_server.recipes.serializers import StepSerializer
from zesty_server.recordings.edited_sound import EDIT_FIELDS
from zesty_server.recordings.models import Recording
from zesty_server.recordings.selectors import shown_measures
from zesty_server.rooms.serializers import BandLevelSerializer, MarkedRoomToneSerializer
from zesty_server.targets.models import Target

#: What a person may change about a recording.
DESCRIBED = ("name", "label", "group", "take", "notes", "dismissed")
JOB_FIELDS = ("state", "progress", "doing", "error", "error_code", "created_at", "finished_at")


class SpanSerializer(serializers.Serializer[dict[str, Any]]):
    """A stretch of time."""

    start_s = NumberField()
    end_s = NumberField()


def _level() -> serializers.FloatField:
    return NumberField(allow_null=True)


class LevelsSerializer(serializers.Serializer[dict[str, Any]]):
    """Levels at one point of a chain."""

    true_peak_dbtp = _level()
    voice_level_dbfs = _level()
    noise_floor_dbfs = _level()


class HumSerializer(serializers.Serializer[dict[str, Any]]):
    """A family of mains lines and how far it stands above its neighbours."""

    base_hz = WholeField()
    level_dbfs = NumberField()
    above_db = NumberField()
    lines_hz = serializers.ListField(child=WholeField())


class PhraseSerializer(serializers.Serializer[dict[str, Any]]):
    """A stretch of speech."""

    start_s = NumberField()
    end_s = NumberField()
    level_dbfs = NumberField()


class SpeechEventsSerializer(serializers.Serializer[dict[str, Any]]):
    """What happens when."""

    phrases = PhraseSerializer(many=True)
    thumps_s = serializers.ListField(child=NumberField())
    noises_s = serializers.ListField(child=NumberField())


class FoundRoomToneSerializer(SpanSerializer):
    """A stretch that may serve as room tone, and what speaks for it."""

    level_dbfs = NumberField()
    level_spread_db = NumberField()
    above_quietest_db = NumberField()
    in_use = serializers.BooleanField(
        required=False,
        help_text="Noise is learned from it where no room tone is marked.",
    )


class NoiseFloorShiftSerializer(SpanSerializer):
    """Where the room is louder for long than elsewhere."""

    by_db = NumberField()


class BalanceSerializer(serializers.Serializer[dict[str, float]]):
    """Levels against that of voiced sounds."""

    sibilance_db = NumberField(help_text="Of the sharpest hissing sounds, 4.5 to 12 kHz.")
    rumble_db = NumberField(help_text="Of what lies below 40 Hz all along.")


class SidesSerializer(serializers.Serializer[dict[str, Any]]):
    """RMS of each side and of their difference; null where silent."""

    left_dbfs = _level()
    right_dbfs = _level()
    difference_dbfs = _level()


class MeasuresSerializer(KeptJsonSerializer):
    """Figures of a signal; null where they cannot be determined, with the reason in ``reasons``."""

    duration_s = NumberField()
    sample_rate_hz = WholeField()
    channels = WholeField()
    sample_peak_dbfs = _level()
    true_peak_dbtp = _level()
    rms_dbfs = _level()
    crest_db = _level()
    integrated_lufs = _level()
    momentary_max_lufs = _level()
    short_term_max_lufs = _level()
    loudness_range_lu = _level()
    voice_level_dbfs = _level()
    voice_activity = _level()
    noise_floor_dbfs = _level()
    noise_floor_source = serializers.CharField(allow_null=True)
    noise_floor_span = SpanSerializer(allow_null=True)
    clearance_db = _level()
    digital_silence_share = NumberField()
    dc_offset = serializers.ListField(child=NumberField())
    clipped_runs = WholeField()
    clipped_at_s = serializers.ListField(child=NumberField())
    # Recordings measured before these existed do not have them.
    hum = HumSerializer(allow_null=True, required=False)
    spectrum = BandLevelSerializer(many=True, allow_null=True, required=False)
    speech_events = SpeechEventsSerializer(allow_null=True, required=False)
    balance = BalanceSerializer(
        allow_null=True, required=False, help_text="Of recordings with a voice."
    )
    sides = SidesSerializer(allow_null=True, required=False, help_text="Of stereo recordings.")
    reasons = serializers.DictField(child=serializers.CharField())
    found_room_tone = SpanSerializer(allow_null=True)
    room_tones = FoundRoomToneSerializer(many=True, required=False)
    noise_floor_shift = NoiseFloorShiftSerializer(allow_null=True, required=False)


class ActSerializer(serializers.Serializer[dict[str, Any]]):
    """The one thing to do about a finding."""

    kind = serializers.ChoiceField(
        ("add_step", "go_to", "mono", "mark_room_tone", "move_step", "set_params")
    )
    text = serializers.CharField()

    def get_fields(self) -> dict[str, Any]:
        """``with`` is a word of the language, so the field is added by its name."""
        return super().get_fields() | {"with": serializers.DictField()}


class FindingSerializer(KeptJsonSerializer):
    """A finding about a recording or a chain."""

    code = serializers.CharField()
    text = serializers.CharField()
    act = ActSerializer(allow_null=True)
    at_s = serializers.ListField(child=NumberField())
    at_step = WholeField(allow_null=True, required=False, help_text="Place in the chain.")


class ProposedStepSerializer(KeptJsonSerializer):
    """A proposed step and why it is there."""

    step = StepSerializer()
    reasons = serializers.ListField(child=serializers.CharField())
    mends = serializers.ListField(
        child=serializers.CharField(), help_text="Codes of the findings that it mends."
    )


class ProposalSerializer(KeptJsonSerializer):
    """A chain made for a recording."""

    steps = ProposedStepSerializer(many=True)
    notes = serializers.ListField(
        child=serializers.CharField(), help_text="What no step of it mends."
    )


class InsertSerializer(KeptJsonSerializer):
    """Room tone or silence put in at a place of the original."""

    at_s = NumberField(min_value=0)
    length_s = NumberField(min_value=0, max_value=LONGEST_INSERT_S)
    kind = serializers.ChoiceField(INSERT_KINDS)


class MarkerSerializer(KeptJsonSerializer):
    """A named place of the original."""

    at_s = NumberField(min_value=0)
    name = serializers.CharField(max_length=MOST_LETTERS)


class TurnSerializer(KeptJsonSerializer):
    """A stretch of one speaker, who counts from 0; times of the original."""

    start_s = NumberField(min_value=0)
    end_s = NumberField(min_value=0)
    speaker = WholeField(min_value=0, max_value=MOST_SPEAKERS - 1)


class SpeakersSerializer(KeptJsonSerializer):
    """Who speaks when."""

    names = serializers.ListField(
        child=serializers.CharField(max_length=60), min_length=1, max_length=MOST_SPEAKERS
    )
    turns = TurnSerializer(many=True)


class RepairSpanSerializer(KeptJsonSerializer):
    """A stretch of the original, and the type of the step that it concerns."""

    type = serializers.CharField(max_length=40)
    start_s = NumberField(min_value=0)
    end_s = NumberField(min_value=0)


class RepairsSerializer(KeptJsonSerializer):
    """Events that repairs leave alone, and others that they mend although they did not find them."""

    refused = RepairSpanSerializer(many=True)
    added = RepairSpanSerializer(many=True)


class RecordingSerializer(serializers.ModelSerializer[Recording]):
    """A recording with its chain."""

    duration_s = NumberField(read_only=True, allow_null=True)
    measures = serializers.SerializerMethodField()
    advice = FindingSerializer(many=True, read_only=True)
    dismissed = serializers.ListField(
        child=serializers.CharField(max_length=60), max_length=100, required=False
    )
    proposed_passage = serializers.SerializerMethodField(
        help_text="A stretch worth looping, in times of what the cuts leave."
    )
    cuts = SpanSerializer(many=True, read_only=True)
    inserts = InsertSerializer(many=True, read_only=True)
    markers = MarkerSerializer(many=True, read_only=True)
    speakers = SpeakersSerializer(read_only=True, allow_null=True)
    repairs = RepairsSerializer(read_only=True, allow_null=True)
    chain = StepSerializer(many=True, read_only=True)
    recipe_name = serializers.CharField(source="recipe.name", read_only=True, allow_null=True)
    recipe_steps = StepSerializer(source="recipe.steps", many=True, read_only=True, allow_null=True)
    chain_sentences = serializers.SerializerMethodField(
        help_text="What each step of the chain does, in plain words."
    )
    room_tone = MarkedRoomToneSerializer(read_only=True, allow_null=True)
    target = serializers.UUIDField(source="target_id", read_only=True, allow_null=True)
    last_delivery = serializers.CharField(
        source="last_delivery_name", read_only=True, allow_null=True, help_text="Name of the file."
    )
    last_delivered_at = serializers.DateTimeField(read_only=True, allow_null=True)
    latest_run = serializers.UUIDField(source="latest_run_id", read_only=True, allow_null=True)

    class Meta:
        model = Recording
        fields = (
            "id",
            "name",
            "label",
            "group",
            "take",
            "notes",
            "original_name",
            "size_bytes",
            "container",
            "subtype",
            "sample_rate_hz",
            "channels",
            "duration_s",
            "measures",
            "advice",
            "dismissed",
            "proposed_passage",
            *EDIT_FIELDS,
            "work_version",
            "tags",
            "chain",
            "recipe",
            "recipe_name",
            "recipe_version",
            "recipe_steps",
            "chain_sentences",
            "room_tone",
            "target",
            "last_delivery",
            "last_delivered_at",
            "latest_run",
            *JOB_FIELDS,
        )
        read_only_fields = tuple(f for f in fields if f not in DESCRIBED)

    @extend_schema_field(MeasuresSerializer(allow_null=True))
    def get_measures(self, recording: Recording) -> dict[str, Any] | None:
        """Measures as every answer gives them."""
        return shown_measures(recording)

    @extend_schema_field(SpanSerializer(allow_null=True))
    def get_proposed_passage(self, recording: Recording) -> dict[str, float] | None:
        """From its phrases."""
        measures = recording.measures
        if measures is None:
            return None
        found = (measures.get("speech_events") or {}).get("phrases") or []
        phrases = [Phrase(**phrase) for phrase in found]
        span = proposed_passage(phrases, measures["duration_s"])
        return span.as_json() if span else None

    def get_chain_sentences(self, recording: Recording) -> list[str]:
        """Made from the settings."""
        return [entry.step.sentence() for entry in chain_from_json(recording.chain)]


class OnVersionSerializer(serializers.Serializer[None]):
    """A change of chain or edits, and the version of them that it was made on."""

    work_version = WholeField(
        required=False,
        allow_null=True,
        default=None,
        help_text="Refused (409) when it is not the present one; without it nothing is compared.",
    )


class EditsSerializer(OnVersionSerializer):
    """All that is done before the chain; times are of the original.

    ``mono`` says how it is made of stereo (empty: it is not). Inserts, fades, markers, speakers and
    repairs that are not given stay.
    """

    cuts = SpanSerializer(many=True)
    mono = serializers.CharField(allow_blank=True, default="")
    pad_start_s = NumberField(min_value=0, max_value=60, default=0.0)
    pad_end_s = NumberField(min_value=0, max_value=60, default=0.0)
    inserts = InsertSerializer(many=True, required=False)
    fade_in_s = NumberField(min_value=0, max_value=LONGEST_FADE_S, required=False)
    fade_out_s = NumberField(min_value=0, max_value=LONGEST_FADE_S, required=False)
    markers = MarkerSerializer(many=True, required=False)
    speakers = SpeakersSerializer(required=False, allow_null=True)
    repairs = RepairsSerializer(required=False, allow_null=True)


class PausesQuerySerializer(serializers.Serializer[None]):
    """How long a pause may be."""

    longest_s = NumberField(min_value=SHORTEST_S, max_value=LONGEST_S, default=0.8)


class PauseSerializer(serializers.Serializer[None]):
    """A pause that is longer, and the cut that brings it to that; times of the original."""

    at_s = NumberField()
    length_s = NumberField(help_text="As it is heard now.")
    cut = SpanSerializer()


class EndsSerializer(OnVersionSerializer):
    """Silence wanted before the first word and after the last, and fades; null leaves it as it is."""

    fade_in_s = NumberField(min_value=0, max_value=LONGEST_FADE_S, allow_null=True, default=None)
    fade_out_s = NumberField(min_value=0, max_value=LONGEST_FADE_S, allow_null=True, default=None)

    head_s = NumberField(min_value=0, max_value=30, allow_null=True, default=None)
    tail_s = NumberField(min_value=0, max_value=30, allow_null=True, default=None)


class CameFromSerializer(OnVersionSerializer):
    """Where a chain came from; what is left out stays as it is."""

    recipe = OneOf(Recipe.objects.all, required=False, allow_null=True)
    recipe_version = WholeField(required=False, allow_null=True, min_value=1, max_value=MOST_KEPT)


class ChainSerializer(CameFromSerializer):
    """A chain to set. Its steps are checked as those of recipes are."""

    steps = StepSerializer(many=True)


class ApplyRecipeSerializer(OnVersionSerializer):
    """A recipe to apply."""

    recipe = OneOf(Recipe.objects.all)


class SetTargetSerializer(serializers.Serializer[None]):
    """A target to aim at, or null for none."""

    target = OneOf(Target.objects.all, allow_null=True)
