"""The target document (``*.zesty-target.json``), version 1.

A target bounds measures of the finished file and says what kind of file it is. Bounds are inclusive
and are compared with figures rounded to one decimal, as they are shown. What is left out is free.
"""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from zesty_core.audio.encoding import Encoding
from zesty_core.foundation.documents import parse_document
from zesty_core.foundation.errors import BadInput, BadSetting
from zesty_core.foundation.titles import checked_titles

FORMAT, VERSION = "zesty-target", 1
MOST_BYTES = 100_000


@dataclass(frozen=True)
class Bounded:
    """A measure that can be bounded: its words, unit, and the range a bound may have."""

    label: str
    unit: str
    low: float
    high: float
    help: str


#: Measures by their name, in the order they are shown.
BOUNDED: dict[str, Bounded] = {
    "integrated_lufs": Bounded(
        "Loudness", "LUFS", -60, 0, "Of the whole file, gated: ITU-R BS.1770-5, EBU R 128."
    ),
    "rms_dbfs": Bounded(
        "Average", "dBFS", -60, 0, "Root mean square over the whole file, without +3 dB for sines."
    ),
    "loudness_range_lu": Bounded("Loudness range", "LU", 0, 60, "EBU Tech 3342."),
    "true_peak_dbtp": Bounded(
        "True peak", "dBTP", -30, 0, "Between the samples too: ITU-R BS.1770-5 Annex 2."
    ),
    "sample_peak_dbfs": Bounded("Sample peak", "dBFS", -30, 0, "The largest sample."),
    "noise_floor_dbfs": Bounded(
        "Noise floor", "dBFS", -120, 0, "Of the room tone, or the quietest half second."
    ),
    "head_s": Bounded("Head", "s", 0, 60, "Room tone before the first word."),
    "tail_s": Bounded("Tail", "s", 0, 60, "Room tone after the last word."),
}


@dataclass(frozen=True)
class Bound:
    """Inclusive limits of a measure, and where to aim at between them. None is free."""

    low: float | None = None
    high: float | None = None
    aim: float | None = None

    @classmethod
    def from_json(cls, data: object, measure: str, path: str) -> Bound:
        """Build from a JSON object; faults carry ``path``."""
        if not isinstance(data, dict):
            raise BadSetting(path, data, "must be an object with low, high and aim")
        _refuse_unknown(data, ("low", "high", "aim"), f"{path}.")
        made = cls(**{k: _number(v, measure, f"{path}.{k}") for k, v in data.items()})
        if made.low is None and made.high is None:
            raise BadSetting(path, data, "must have a low, a high, or both")
        if made.low is not None and made.high is not None and made.low > made.high:
            raise BadSetting(f"{path}.low", made.low, f"must not be above high, {made.high:g}")
        if made.aim is not None and not made.holds(made.aim):
            raise BadSetting(f"{path}.aim", made.aim, "must lie between low and high")
        return made

    @property
    def middle(self) -> float:
        """Where to aim: as said, else the middle, else the only limit."""
        if self.aim is not None:
            return self.aim
        limits = [v for v in (self.low, self.high) if v is not None]
        return sum(limits) / len(limits)

    def holds(self, value: float) -> bool:
        """Whether a value, rounded as it is shown, lies within."""
        shown = round(value, 1)
        return (self.low is None or shown >= round(self.low, 1)) and (
            self.high is None or shown <= round(self.high, 1)
        )

    def moved(self, offset: float) -> Bound:
        """The same bound further up or down."""
        moved = (None if v is None else v + offset for v in dataclasses.astuple(self))
        return Bound(*moved)

    def as_json(self) -> dict[str, float]:
        """JSON object without what is free."""
        return {k: v for k, v in dataclasses.asdict(self).items() if v is not None}


@dataclass(frozen=True)
class FileWish:
    """What kind of file; None is as the recording is."""

    container: str | None = None
    sample_rate_hz: int | None = None
    channels: int | None = None
    depth: str | None = None
    bitrate_kbps: int | None = None
    variable: bool = False

    RATES_HZ = (8_000, 192_000)

    def __post_init__(self) -> None:
        low, high = self.RATES_HZ
        if self.sample_rate_hz is not None and not (
            _is_whole(self.sample_rate_hz) and low <= self.sample_rate_hz <= high
        ):
            raise BadSetting("sample_rate_hz", self.sample_rate_hz, f"must be from {low} to {high}")
        if self.channels not in (None, 1, 2) or isinstance(self.channels, bool):
            raise BadSetting("channels", self.channels, "must be 1 or 2")
        if self.bitrate_kbps is not None and not _is_whole(self.bitrate_kbps):
            raise BadSetting("bitrate_kbps", self.bitrate_kbps, "must be a whole number")
        if not isinstance(self.variable, bool):
            raise BadSetting("variable", self.variable, "must be true or false")
        self.encoding()

    @classmethod
    def from_json(cls, data: object, path: str = "file") -> FileWish:
        """Build from a JSON object; faults carry ``path``."""
        if not isinstance(data, dict):
            raise BadSetting(path, data, "must be an object")
        known = tuple(field.name for field in dataclasses.fields(cls))
        _refuse_unknown(data, known, f"{path}.")
        try:
            return cls(**data)
        except BadSetting as fault:
            raise fault.under(f"{path}.") from None

    def changed(self, asked: Mapping[str, Any]) -> FileWish:
        """The same with what is asked for; None there asks for nothing."""
        base = self.as_json()
        asked = {k: v for k, v in asked.items() if v is not None}
        if asked.get("container", base.get("container")) != base.get("container"):
            # Depth and bitrate belong to the container they were said of.
            base = {k: v for k, v in base.items() if k in ("sample_rate_hz", "channels")}
        return FileWish.from_json(base | asked)

    def encoding(self, container: str = "WAV") -> Encoding:
        """How its samples are kept; ``container`` where it is free."""
        chosen = self.container or container
        return Encoding(chosen, self.depth, self.bitrate_kbps, self.variable)

    def as_json(self) -> dict[str, Any]:
        """JSON object without what is free."""
        return {k: v for k, v in dataclasses.asdict(self).items() if v not in (None, False)}


@dataclass(frozen=True)
class Target:
    """A named set of bounds, and the kind of file."""

    name: str
    bounds: dict[str, Bound]
    file: FileWish = FileWish()
    description: str = ""

    @classmethod
    def from_json(cls, data: object) -> Target:
        """Build from a document's JSON."""
        if not isinstance(data, dict):
            raise BadInput("A target must be a JSON object")
        if data.get("format") != FORMAT:
            raise BadSetting("format", data.get("format"), f'must be "{FORMAT}"')
        if data.get("version") != VERSION or isinstance(data.get("version"), bool):
            raise BadSetting("version", data.get("version"), f"must be {VERSION}")
        _refuse_unknown(
            data, ("format", "version", "name", "description", "bounds", "file"), prefix=""
        )
        name, description = checked_titles(data)
        bounds = data.get("bounds", {})
        if not isinstance(bounds, dict):
            raise BadSetting("bounds", bounds, "must be an object of measures")
        _refuse_unknown(bounds, tuple(BOUNDED), "bounds.")
        file = FileWish.from_json(data.get("file", {}))
        made = {
            measure: Bound.from_json(bounds[measure], measure, f"bounds.{measure}")
            for measure in BOUNDED
            if measure in bounds
        }
        if not made and file == FileWish():
            raise BadSetting("bounds", bounds, "must bound a measure, or file say a kind of file")
        return cls(name, made, file, description)

    def as_json(self) -> dict[str, Any]:
        """Document as JSON."""
        return {
            "format": FORMAT,
            "version": VERSION,
            "name": self.name,
            "description": self.description,
            "bounds": {measure: bound.as_json() for measure, bound in self.bounds.items()},
            "file": self.file.as_json(),
        }

    @property
    def level(self) -> tuple[str, Bound] | None:
        """The measure that sets the final level, and its bound: loudness before average."""
        for measure in ("integrated_lufs", "rms_dbfs"):
            if measure in self.bounds:
                return measure, self.bounds[measure]
        return None

    @property
    def ceiling_dbtp(self) -> float | None:
        """Highest true peak that meets every bound of peaks."""
        highest = [
            bound.high
            for measure in ("true_peak_dbtp", "sample_peak_dbfs")
            if (bound := self.bounds.get(measure)) and bound.high is not None
        ]
        return min(highest, default=None)

    def moved(self, offset_lu: float) -> Target:
        """The same with its level bound further up or down; ceilings stay."""
        if self.level is None:
            return self
        measure, bound = self.level
        return dataclasses.replace(self, bounds=self.bounds | {measure: bound.moved(offset_lu)})


#: What an import of a target takes.
EXPECTED = "a target document, such as *Export* of a target gives (.target.json)"


def read_target(path: Path) -> Target:
    """Target from a file; raises :class:`BadInput`.

    Parameters
    ----------
    path : Path
        File of the document.

    Returns
    -------
    target : Target
        Checked.

    Raises
    ------
    BadInput
        For a file that cannot be read or is not a target.
    """
    try:
        if path.stat().st_size > MOST_BYTES:
            raise BadInput(f"{path.name} is larger than a target can be (100 kB)")
        text = path.read_bytes()
    except FileNotFoundError:
        raise BadInput(f"{path.name}: there is no such target file") from None
    except OSError as fault:
        raise BadInput(f"{path.name} cannot be read: {fault}") from None
    return Target.from_json(parse_document(text, path.name, EXPECTED))


def _is_whole(value: object) -> bool:
    return isinstance(value, int) and not isinstance(value, bool)


def _number(value: object, measure: str, path: str) -> float | None:
    low, high = BOUNDED[measure].low, BOUNDED[measure].high
    if value is None:
        return None
    if (
        isinstance(value, bool)
        or not isinstance(value, int | float)
        or not math.isfinite(value)
        or not low <= value <= high
    ):
        raise BadSetting(path, value, f"must be a number from {low:g} to {high:g}")
    return float(value)


def _refuse_unknown(data: dict[str, Any], known: tuple[str, ...], prefix: str) -> None:
    for key, value in data.items():
        if key not in known:
            raise BadSetting(f"{prefix}{key}", value, f"is not one of {', '.join(known)}")
