"""Whether a file meets its target: one entry for each rule, with the figure it was judged by."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from zesty_core.targets.document import BOUNDED, Bound, FileWish, Target


@dataclass(frozen=True)
class FileFacts:
    """What a finished file is."""

    container: str
    sample_rate_hz: int
    channels: int
    depth: str | None = None
    bitrate_kbps: int | None = None


@dataclass(frozen=True)
class Rule:
    """One rule of a target. ``is_met`` is None where the figure cannot be determined.

    ``off_by`` is how far the figure lies outside (above: positive), None where that means nothing.
    """

    name: str
    label: str
    wanted: str
    got: str
    is_met: bool | None
    off_by: float | None = None

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return asdict(self)


def check_measures(
    target: Target, measures: Mapping[str, Any], offset_lu: float = 0.0
) -> list[Rule]:
    """Judge the measures (as JSON, see ``Measures.as_json``) of what is to be delivered.

    ``offset_lu`` is how far this file may stand from its set's level (see ``delivery.level_set``).

    Parameters
    ----------
    target : Target
        What is asked for.
    measures : mapping
        Measures as JSON.
    offset_lu : float, optional
        Distance from the level of the set.

    Returns
    -------
    rules : list of Rule
        One for each bound, met or not, with the figure found.
    """
    return [
        _rule(measure, bound, figure(measures, measure))
        for measure, bound in target.moved(offset_lu).bounds.items()
    ]


def check_file(target: Target, file: FileFacts) -> list[Rule]:
    """Judge what kind of file it is.

    Parameters
    ----------
    target : Target
        What is asked for.
    file : FileFacts
        Container, codec, rate, channels, bits.

    Returns
    -------
    rules : list of Rule
        One for each wish about the file.
    """
    wish = target.file
    rules = [
        _alike("container", "Format", wish.container, file.container),
        _alike("sample_rate_hz", "Rate", wish.sample_rate_hz, file.sample_rate_hz, _rate),
        _alike("channels", "Channels", wish.channels, file.channels, _channels),
        _alike("depth", "Depth", wish.depth, file.depth, _depth),
        _alike("bitrate_kbps", "Bitrate", wish.bitrate_kbps, file.bitrate_kbps, _bitrate),
    ]
    return [rule for rule in rules if rule]


def figure(measures: Mapping[str, Any], measure: str) -> float | None:
    """A bounded measure of a file; head and tail are read off its first and last word."""
    if measure not in ("head_s", "tail_s"):
        value = measures.get(measure)
        return None if value is None else float(value)
    phrases = (measures.get("speech_events") or {}).get("phrases")
    if not phrases:
        return None
    if measure == "head_s":
        return float(phrases[0]["start_s"])
    return max(0.0, float(measures["duration_s"]) - float(phrases[-1]["end_s"]))


def met_and_all(rules: list[Rule]) -> tuple[int, int]:
    """How many rules are met, of how many."""
    return sum(rule.is_met is True for rule in rules), len(rules)


def wanted_words(bound: Bound, unit: str) -> str:
    """A bound in words: "-17.0 to -15.0 LUFS", "at most -1.0 dBTP"."""
    low, high = (None if v is None else _shown(v) for v in (bound.low, bound.high))
    if low is None:
        return f"at most {high} {unit}"
    if high is None:
        return f"at least {low} {unit}"
    return f"{low} {unit}" if low == high else f"{low} to {high} {unit}"


def file_words(wish: FileWish) -> str:
    """The kind of file in words: "MP3, 44.1 kHz, mono, 128 kbit/s"."""
    said = [
        wish.container and wish.container.replace("OPUS", "Opus"),
        wish.sample_rate_hz and _rate(wish.sample_rate_hz),
        wish.channels and _channels(wish.channels),
        wish.depth and _depth(wish.depth),
        wish.bitrate_kbps and _bitrate(wish.bitrate_kbps),
    ]
    return ", ".join(str(word) for word in said if word)


def _rule(measure: str, bound: Bound, value: float | None) -> Rule:
    known = BOUNDED[measure]
    wanted = wanted_words(bound, known.unit)
    if value is None:
        return Rule(measure, known.label, wanted, "cannot be determined", None)
    shown = round(value, 1)
    off = 0.0
    if bound.high is not None and shown > bound.high:
        off = shown - bound.high
    elif bound.low is not None and shown < bound.low:
        off = shown - bound.low
    met = bound.holds(value)
    return Rule(measure, known.label, wanted, f"{_shown(value)} {known.unit}", met, round(off, 1))


def _alike(name: str, label: str, wanted: Any, got: Any, words: Any = str) -> Rule | None:
    if wanted is None:
        return None
    got_words = "cannot be determined" if got is None else words(got)
    return Rule(name, label, words(wanted), got_words, None if got is None else wanted == got)


def _shown(value: float) -> str:
    return f"{value:.1f}".replace("-", "\u2212")


def _rate(hz: int) -> str:
    return f"{hz / 1000:g} kHz"


def _channels(count: int) -> str:
    return "mono" if count == 1 else "stereo"


def _depth(depth: str) -> str:
    return "32 bit float" if depth == "32f" else f"{depth} bit"


def _bitrate(kbps: int) -> str:
    return f"{kbps} kbit/s"
