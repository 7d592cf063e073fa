"""A page to show a client, in one file: sounds to switch between, pictures, measures, room for notes.

Everything is inside; nothing of the library but this recording's result, and nothing is loaded.
"""

from __future__ import annotations

import json
import tempfile
from base64 import b64encode
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from html import escape
from importlib import resources
from pathlib import Path
from typing import Any

import numpy as np

from zesty_core.audio.encoding import Encoding, make_writer
from zesty_core.audio.resample import resampled
from zesty_core.compare.drawings import curves_svg, mirror_svg
from zesty_core.compare.time_series import time_series_of
from zesty_core.delivery.figures import ROWS, figure_rows, shown
from zesty_core.delivery.page import page, table
from zesty_core.foundation.signal import ArraySource, Block
from zesty_core.foundation.units import format_time

#: More would make a page that no mail takes.
LONGEST_S = 600.0
_BITRATE_KBPS = 128
_POINTS = 450
_TICKS_HZ = ((60, "60"), (125, "125"), (250, "250"), (500, "500"), (1000, "1k"), (2000, "2k"))
_TICKS_MORE_HZ = ((4000, "4k"), (8000, "8k"), (16_000, "16k"))

_STYLE = """
.player { display: flex; flex-wrap: wrap; gap: 1rem; align-items: center; padding: 1rem;
  background: var(--card); border: 1.5px solid var(--ink); border-radius: 14px; margin: 1.5rem 0; }
.player button { font: inherit; font-weight: 600; color: var(--paper); background: var(--ink);
  border: 0; border-radius: 18px; padding: .5rem 1.25rem; min-width: 5.5rem; }
.player input[type=range] { flex: 1; min-width: 12rem; } .words { font-size: 1.1rem; font-weight: 600; }
textarea { font: inherit; width: 100%; min-height: 4rem; padding: .5rem .75rem;
  border: 1px solid var(--muted); border-radius: 8px; background: var(--card); color: var(--ink); }
.note { margin: 1rem 0; } .note button, #keep-notes { font: inherit; color: var(--ink);
  background: var(--card); border: 1px solid var(--muted); border-radius: 18px; padding: .25rem 1rem; }
"""


def client_page(
    title: str,
    before: Block,
    after: Block,
    sample_rate_hz: int,
    measures: tuple[Mapping[str, Any], Mapping[str, Any]],
    differences: Sequence[str],
    start_s: float = 0.0,
    whole_s: float | None = None,
) -> str:
    """HTML of the page. ``before`` and ``after`` have the same length; ``measures`` (JSON) too.

    Of a stretch ``start_s`` tells where it begins, ``whole_s`` how long the whole is, which
    ``measures`` and ``differences`` are of.
    """
    seconds = before.shape[1] / sample_rate_hz
    series = [
        time_series_of(ArraySource(sound, sample_rate_hz), 0, sound.shape[1], _POINTS)
        for sound in (before, after)
    ]
    words = "; ".join(differences) or "Nothing that would be heard has changed"
    body = [
        f"<h1>{escape(title)}: before and after</h1>",
        f'<p class="muted">{_extent(start_s, seconds, whole_s)} Both play at the same instant; '
        "\u201cEqually loud\u201d takes the loudness out of the comparison.</p>",
        _player({"before": "Before", "after": "After"}, "after"),
        f'<p class="words">{escape(words[0].upper() + words[1:])}.</p>',
        mirror_svg(before, after),
        "<h2>Figures</h2>",
        table(["Measure", "Before", "After", "Difference"], figure_rows(*measures)),
        "<h2>Loudness over time, LUFS</h2>",
        _loudness(series),
        "<h2>Average spectrum, dBFS by frequency in Hz</h2>",
        _spectrum(series),
        _notes(["Before", "After"]),
        _sound("sound-before", before, sample_rate_hz),
        _sound("sound-after", after, sample_rate_hz),
    ]
    loudness = {
        name: c["integrated_lufs"] for name, c in zip(("before", "after"), series, strict=True)
    }
    return _whole(f"{title}: before and after", body, loudness)


@dataclass(frozen=True)
class Version:
    """One of several sounds of a passage, under the name a client sees."""

    name: str
    sound: Block
    sample_rate_hz: int
    measures: Mapping[str, Any]


def versions_page(title: str, versions: Sequence[Version]) -> str:
    """HTML of a page with several versions to switch between at the same instant.

    All begin at the same place; one may be shorter than the others.
    """
    keys = [f"v{i + 1}" for i in range(len(versions))]
    seconds = max(v.sound.shape[1] / v.sample_rate_hz for v in versions)
    heading = f"{title}: {len(versions)} versions"
    body = [
        f"<h1>{escape(heading)}</h1>",
        f'<p class="muted">{format_time(seconds)} of sound. All play at the same instant; '
        "\u201cEqually loud\u201d takes the loudness out of the comparison.</p>",
        _player({k: v.name for k, v in zip(keys, versions, strict=True)}, keys[0]),
        "<h2>Figures</h2>",
        table(["Measure", *(v.name for v in versions)], _figures(versions)),
        _notes([v.name for v in versions]),
        *(
            _sound(f"sound-{k}", v.sound, v.sample_rate_hz)
            for k, v in zip(keys, versions, strict=True)
        ),
    ]
    loudness = {k: v.measures.get("integrated_lufs") for k, v in zip(keys, versions, strict=True)}
    return _whole(heading, body, loudness)


def _figures(versions: Sequence[Version]) -> list[list[str]]:
    return [
        [words, *(shown(v.measures.get(name), unit) for v in versions)]
        for name, words, unit, _ in ROWS
    ]


def _whole(title: str, body: Sequence[str], lufs: Mapping[str, float | None]) -> str:
    html = page(title, "".join(body), style=_STYLE, script=_script())
    rounded = {k: None if v is None else round(v, 2) for k, v in lufs.items()}
    return html.replace("<body>", f'<body data-lufs="{escape(json.dumps(rounded))}">', 1)


def _notes(names: Sequence[str]) -> str:
    """Room for what a client has to say, which comes back as a file."""
    fields = "".join(
        f'<div class="note"><label for="note-{i}"><b>{escape(name)}</b></label> '
        f'<button type="button" data-now="note-{i}">Note this moment</button>'
        f'<textarea id="note-{i}" data-version="{escape(name)}"></textarea></div>'
        for i, name in enumerate(names)
    )
    return (
        "<h2>Your notes</h2><p>Write down what you think, save it as a file and send it back.</p>"
        f'{fields}<p><label>Your name <input id="who"></label> '
        '<button type="button" id="keep-notes">Save notes as a file</button></p>'
    )


def _extent(start_s: float, seconds: float, whole_s: float | None) -> str:
    if whole_s is None or seconds >= whole_s:
        return f"{format_time(seconds)} of sound."
    return (
        f"{format_time(start_s)} to {format_time(start_s + seconds)} of {format_time(whole_s)}; "
        "the figures are of the whole."
    )


def _script() -> str:
    return resources.files(__package__).joinpath("client_page.js").read_text(encoding="utf-8")


def _player(names: Mapping[str, str], first: str) -> str:
    sides = "".join(
        f'<label class="{key}"><input type="radio" name="side" value="{key}"'
        f"{' checked' if key == first else ''}> {escape(name)}</label>"
        for key, name in names.items()
    )
    return (
        f'<div class="player"><button id="play" type="button">Play</button>{sides}'
        '<label><input type="checkbox" id="match" checked> Equally loud</label>'
        '<input type="range" id="place" min="0" max="1" step="0.001" value="0" '
        'aria-label="Place"><output id="time">0:00.0</output></div>'
    )


def _loudness(series: Sequence[Mapping[str, Any]]) -> str:
    step_s = series[0]["step_s"]
    count = min(len(time_series["short_term_lufs"]) for time_series in series)
    times = [i * step_s for i in range(count)]
    span = max(1.0, count * step_s)
    ticks = [(span * k / 6, format_time(span * k / 6)) for k in range(7)]
    curves = [time_series["short_term_lufs"][:count] for time_series in series]
    return curves_svg(times, curves, ticks, "Short-term loudness before and after over time")


def _spectrum(series: Sequence[Mapping[str, Any]]) -> str:
    freqs = series[0]["freqs_hz"]
    ticks = [(float(np.log10(hz)), text) for hz, text in (*_TICKS_HZ, *_TICKS_MORE_HZ)]
    curves = [time_series["spectrum_dbfs"] or [None] * len(freqs) for time_series in series]
    xs = [float(np.log10(f)) for f in freqs]
    inside = [tick for tick in ticks if tick[0] <= xs[-1]]
    return curves_svg(xs, curves, inside, "Average spectrum before and after")


def _sound(name: str, sound: Block, rate: int) -> str:
    """The sound inside the page, where the script finds it."""
    encoding = Encoding("MP3", bitrate_kbps=_BITRATE_KBPS)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sound.mp3"
        with make_writer(path, encoding, encoding.rate_hz(rate), len(sound)) as writer:
            wanted = encoding.rate_hz(rate)
            writer.write(sound if rate == wanted else resampled(sound, rate, wanted))
        data = b64encode(path.read_bytes()).decode("ascii")
    return f'<script type="text/plain" id="{name}">{data}</script>'
