"""The front door for scripts: load, measure, process and deliver in a few lines.

Everything here is also reached as ``import zesty_core as zv``.

Examples
--------
>>> import numpy as np
>>> import zesty_core as zv
>>> rate = 48_000
>>> tone = 0.1 * np.sin(2 * np.pi * 1000 * np.arange(rate) / rate)
>>> round(zv.measure(tone, rate).sample_peak_dbfs, 1)
-20.0
>>> recipe = zv.Recipe.of("Louder", ("gain", {"gain_db": 6.0}))
>>> made = zv.process(tone, recipe, rate)
>>> made.samples.shape
(48000,)
>>> round(zv.measure(made.samples, made.sample_rate_hz).sample_peak_dbfs, 1)
-14.0
"""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_core.audio.encoding import Encoding
from zesty_core.audio.reader import AudioFile
from zesty_core.audio.tags import checked_tags
from zesty_core.audio.writer import depth_for
from zesty_core.chain.recipe import Chain, Recipe, parse_recipe, read_recipe
from zesty_core.chain.runner import ChainResult, Progress, run_chain
from zesty_core.delivery.deliver import Delivered, Order
from zesty_core.delivery.deliver import deliver as deliver_source
from zesty_core.foundation.errors import BadInput, BadRecipe
from zesty_core.foundation.room_tone import LONGEST_S, RoomTone
from zesty_core.foundation.signal import ArraySource, Block, Source, Span
from zesty_core.measures.report import Measures
from zesty_core.measures.stream import measure as measure_blocks
from zesty_core.runtime.denormals import flushing_to_zero
from zesty_core.starters import starter_documents
from zesty_core.targets.document import Target, read_target
from zesty_core.targets.starters import STARTERS, starter

__all__ = (
    "Delivered",
    "Measures",
    "Processed",
    "Recipe",
    "Target",
    "deliver",
    "load_recipe",
    "load_target",
    "measure",
    "process",
    "recipes",
)

#: Samples of shape ``(samples,)`` or ``(channels, samples)``, full scale 1.0; or a file's path.
Sound = NDArray[np.floating[Any]] | str | os.PathLike[str]
#: A stretch of the recording in seconds, several of them, or a sound of the same room.
Tone = tuple[float, float] | list[tuple[float, float]] | Sound


@dataclass(frozen=True)
class Processed:
    """What a recipe made of a sound.

    Attributes
    ----------
    samples : array
        Float32, of the shape that was given; ``(channels, samples)`` for a file.
    sample_rate_hz : int
    result : ChainResult
        Measures before and after, and what each step did.
    """

    samples: Block
    sample_rate_hz: int
    result: ChainResult


def load_recipe(name: str | os.PathLike[str]) -> Recipe:
    """Load a recipe.

    Parameters
    ----------
    name : str or path
        A recipe document, or the name of a recipe that comes with the product (:func:`recipes`).

    Raises
    ------
    BadRecipe
        There is no such recipe, or the document has a fault, which is named with its place.
    """
    supplied = recipes()
    if str(name) in supplied:
        return supplied[str(name)]
    if not Path(name).exists():
        names = ", ".join(f'"{one}"' for one in supplied)
        raise BadRecipe(f"{name}: there is no such recipe file; by name there are {names}")
    return read_recipe(Path(name))


def load_target(name: str | os.PathLike[str]) -> Target:
    """Load a target: a document, or one that comes with the product, by its name.

    Raises :class:`BadInput` where there is none.

    Parameters
    ----------
    name : str or path
        A file, or the name of a target that comes with the product.

    Returns
    -------
    target : Target
        Checked.

    Raises
    ------
    BadInput
        Where there is neither.
    """
    supplied = starter(str(name))
    if supplied:
        return supplied
    if not Path(name).exists():
        names = ", ".join(f'"{one.name}"' for one in STARTERS)
        raise BadInput(f"{name}: there is no such target file; by name there are {names}")
    return read_target(Path(name))


def recipes() -> dict[str, Recipe]:
    """Recipes that come with the product, by name."""
    made = [parse_recipe(text, name) for name, text in starter_documents()]
    return {recipe.name: recipe for recipe in made}


def measure(
    sound: Sound, sample_rate_hz: int | None = None, room_tone: tuple[float, float] | None = None
) -> Measures:
    """Measure a sound: peaks, loudness, voice level, noise floor, spectrum and more.

    Parameters
    ----------
    sound : array or path
    sample_rate_hz : int
        Of an array; a file says its own.
    room_tone : (start_s, end_s), optional
        Where to read the noise floor; found by itself otherwise.

    Raises
    ------
    BadInput
        The file cannot be read, the array has another shape, or the span lies outside.
    """
    source = _source(sound, sample_rate_hz)
    span = None
    if room_tone:
        span = Span.checked(*room_tone, "room_tone", source.info.duration_s)
    with flushing_to_zero():
        return measure_blocks(source.blocks(), source.info, span)


def process(
    sound: Sound,
    recipe: Recipe | Chain | str | os.PathLike[str],
    sample_rate_hz: int | None = None,
    *,
    room_tone: Tone | None = None,
    progress: Callable[[Progress], None] = lambda progress: None,
) -> Processed:
    """Run a recipe over a whole sound.

    Parameters
    ----------
    sound : array or path
    recipe : Recipe, chain, name or path
    sample_rate_hz : int
        Of an array; a file says its own.
    room_tone : optional
        ``(start_s, end_s)`` of the recording, a list of such, or another sound of the same room
        (an array at the same rate, or a file). Found by itself otherwise.

    Returns
    -------
    Processed

    Raises
    ------
    BadInput, BadRecipe
    """
    source = _source(sound, sample_rate_hz)
    blocks: list[Block] = []
    result = run_chain(
        source,
        _chain(recipe),
        blocks.append,
        room_tone=_tone(room_tone, source),
        progress=progress,
    )
    samples = np.concatenate(blocks, axis=1)
    one_row = isinstance(sound, np.ndarray) and sound.ndim == 1
    return Processed(samples[0] if one_row else samples, source.info.sample_rate_hz, result)


def deliver(
    sound: Sound,
    out: str | os.PathLike[str],
    recipe: Recipe | Chain | str | os.PathLike[str],
    target: Target | str | os.PathLike[str] | None = None,
    sample_rate_hz: int | None = None,
    *,
    room_tone: Tone | None = None,
    tags: Mapping[str, str] | None = None,
    progress: Callable[[Progress], None] = lambda progress: None,
) -> Delivered:
    """Make a finished file: the recipe, its last steps fitted to a target, encoded and measured again.

    Parameters
    ----------
    out : path
        Its ending says the format: .wav, .flac, .mp3, .ogg or .opus. It is there, whole, when this
        returns, and not otherwise; an earlier file of that name is replaced.
    target : Target, name or path, optional
    tags : mapping, optional
        title, artist, album, genre, year, track, comment.

    Returns
    -------
    Delivered
        Measures of the file itself, and each rule of the target with its figure.

    Raises
    ------
    BadInput, BadRecipe, UnwritableAudio
    """
    source, path = _source(sound, sample_rate_hz), Path(out)
    aim = target if isinstance(target, Target) or target is None else load_target(target)
    asked = Encoding.for_path(path, None, None, False)
    wish = aim.file if aim else None
    # What the target says of depth and bitrate holds for its own kind of file.
    same_kind = wish is not None and (wish.container or "WAV") == asked.container
    encoding = wish.encoding() if wish and same_kind else asked
    order = Order(
        _chain(recipe),
        encoding,
        aim,
        wish.sample_rate_hz if wish else None,
        wish.channels if wish else None,
        depth_for(source.format, asked.container) if isinstance(source, AudioFile) else "PCM_24",
        checked_tags(dict(tags or {})),
    )
    return deliver_source(
        source, order, path, room_tone=_tone(room_tone, source), progress=progress
    )


def _chain(recipe: Recipe | Chain | str | os.PathLike[str]) -> Chain:
    if isinstance(recipe, tuple):
        return recipe
    return (recipe if isinstance(recipe, Recipe) else load_recipe(recipe)).chain


def _source(sound: Sound, sample_rate_hz: int | None) -> Source:
    if not isinstance(sound, np.ndarray):
        return AudioFile(os.fspath(sound))
    if sample_rate_hz is None:
        raise BadInput("sample_rate_hz: an array needs its sampling rate", path="sample_rate_hz")
    if sound.ndim not in (1, 2) or not 1 <= np.atleast_2d(sound).shape[0] <= 2 or sound.size == 0:
        raise BadInput(
            "sound: must have the shape (samples,) or (channels, samples) with one or two channels, "
            f"got {sound.shape}",
            path="sound",
        )
    if not np.isfinite(sound).all():
        raise BadInput("sound: holds values that are not finite", path="sound")
    return ArraySource(np.atleast_2d(sound).astype(np.float32), sample_rate_hz)


def _tone(given: Tone | None, source: Source) -> RoomTone | None:
    if given is None:
        return None
    rate = source.info.sample_rate_hz
    if isinstance(given, np.ndarray):
        return RoomTone(samples=np.atleast_2d(given).astype(np.float32), sample_rate_hz=rate)
    if isinstance(given, str | os.PathLike):
        other = AudioFile(os.fspath(given))
        samples = other.read(0, round(LONGEST_S * other.info.sample_rate_hz))
        return RoomTone(samples=samples, sample_rate_hz=other.info.sample_rate_hz)
    spans = [given] if isinstance(given, tuple) else given
    return RoomTone(spans=tuple(Span(start_s, end_s) for start_s, end_s in spans))
