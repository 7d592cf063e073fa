"""The demo: six home recordings, room tones, a starter recipe, and a run or two to look at."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

from django.conf import settings

from zesty_core.foundation.errors import BadInput
from zesty_server.beds.models import Bed
from zesty_server.beds.services import keep_bed
from zesty_server.recipes.models import Recipe
from zesty_server.recipes.services import import_recipe
from zesty_server.recordings.models import Recording
from zesty_server.recordings.room_tones import mark_room_tone
from zesty_server.recordings.services import (
    describe_recording,
    measure,
    receive_recording,
    set_target,
)
from zesty_server.recordings.work import apply_recipe
from zesty_server.runs.services import execute_run, start_run
from zesty_server.starters import add_starters
from zesty_server.targets.models import Target

#: Loaded in this order, so that the list shows them the other way round.
_ORDER = (
    "volunteer-desk",
    "counting-lesson-3",
    "letters-31-warden",
    "letters-31-opening",
    "hide-guide-saltmarsh",
    "hide-guide-causeway",
)
_MARKED = ("hide-guide-causeway", "letters-31-opening", "letters-31-warden")
_TARGET = "Podcast, stereo"
_RUN = ("letters-31-opening", "hide-guide-causeway")


def _marker() -> Path:
    return Path(settings.DATA) / "demo-loaded"


def is_loaded() -> bool:
    """Whether this library has had its demo."""
    return _marker().exists()


def load_demo(folder: Path, say: Callable[[str], object]) -> None:
    """Load it once; what the user did since is left alone."""
    if is_loaded():
        return
    if not folder.is_dir():
        raise BadInput(f"{folder} does not hold the demo recordings; make them with make samples")
    say("Loading the demo recordings ...")
    add_starters()
    targets = {target.name: target for target in Target.objects.all()}
    recipes = _recipes(folder.parent)
    for bed in sorted((folder.parent / "beds").glob("*.flac")):
        name = f"{bed.stem.replace('-', ' ').capitalize()}.flac"
        if Bed.objects.filter(original_name=name).exists():
            continue
        with bed.open("rb") as file:
            keep_bed(file, name, bed.stat().st_size)
    for stem in _ORDER:
        if Recording.objects.filter(original_name=f"{stem}.wav").exists():
            continue  # loading was stopped half way
        recording = _recording(folder, stem)
        if stem in _RUN:
            apply_recipe(recording, recipes[0])
            set_target(recording, targets[_TARGET])
            execute_run(str(start_run(recording).pk))
        say(f"  {recording.name}")
    _marker().touch()


def _recipes(folder: Path) -> list[Recipe]:
    documents = sorted(folder.glob("*.zesty.json"))
    return [import_recipe(d.read_bytes(), d.name) for d in documents]


def _recording(folder: Path, stem: str) -> Recording:
    path = folder / f"{stem}.wav"
    truth = json.loads(path.with_suffix(".truth.json").read_text(encoding="utf-8"))
    with path.open("rb") as file:
        recording = receive_recording(file, path.name, path.stat().st_size)
    describe_recording(
        recording, {"name": truth["title"], "label": f"{truth['role']}, {truth['room']}"}
    )
    measure(str(recording.pk))
    recording.refresh_from_db()
    if stem in _MARKED:
        start_s, end_s = truth["room_tone"]
        mark_room_tone(recording, start_s, end_s, truth["room"])
    return recording
