"""Chains kept before there was a voice model go on by statistics."""

from __future__ import annotations

from importlib import import_module

import pytest
from django.apps import apps

from zesty_server.comparisons.models import Tasting
from zesty_server.recipes.models import Recipe, RecipeVersion, SavedSettings
from zesty_server.recordings.models import Recording

KEPT = [{"type": "gain", "params": {}}, {"type": "noise_reduction", "params": {"depth_db": 12.0}}]
NOW = [
    KEPT[0],
    {"type": "noise_reduction", "params": {"method": "statistics", "depth_db": 12.0}},
]


def migrate(app, name):
    import_module(f"zesty_server.{app}.migrations.{name}").name_methods(apps, None)


@pytest.mark.django_db
def test_every_kept_chain_names_its_method():
    recording = Recording.objects.create(name="a", original_name="a.wav", size_bytes=1, chain=KEPT)
    chosen = [{"type": "noise_reduction", "params": {"method": "voice_model"}}]
    other = Recording.objects.create(name="b", original_name="b.wav", size_bytes=1, chain=chosen)
    recipe = Recipe.objects.create(name="Room", steps=KEPT)
    version = RecipeVersion.objects.create(recipe=recipe, version=1, steps=KEPT)
    saved = SavedSettings.objects.create(type="noise_reduction", name="Calm", params={})
    gate = SavedSettings.objects.create(type="gate", name="Calm", params={"ratio": 2.0})
    tasting = Tasting.objects.create(
        recording=recording, start_s=0, end_s=1, blind=True, entries=[{"label": "A", "steps": KEPT}]
    )

    migrate("recordings", "0017_methods_of_noise_reduction")
    migrate("recipes", "0005_methods_of_noise_reduction")
    migrate("comparisons", "0003_methods_of_noise_reduction")

    for row in (recording, other, recipe, version, saved, gate, tasting):
        row.refresh_from_db()
    assert recording.chain == recipe.steps == version.steps == NOW
    assert tasting.entries == [{"label": "A", "steps": NOW}]
    assert other.chain == chosen
    assert saved.params == {"method": "statistics", "depth_db": 20.0}
    assert gate.params == {"ratio": 2.0}
