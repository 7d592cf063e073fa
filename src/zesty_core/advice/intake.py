"""What is wrong with a recording as it came in, in figures, with one thing to do about each.

Limits are common practice, no published source; they were set so that every fault planted in the
demo recordings is found and nothing on their clean lines.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import replace

from zesty_core.advice.finding import Act, Finding, add_step, with_minus
from zesty_core.advice.room import ROOM_RULES
from zesty_core.foundation.units import format_time
from zesty_core.measures.report import Measures
from zesty_core.measures.spectrum import Spectrum, level_between

_LOW_PEAK_DBFS, _LOW_VOICE_DBFS = -24.0, -40.0
_HOT_PEAK_DBFS = -1.0
_DC_OFFSET = 0.002
_ONE_SIDED_DB = 20.0
_SAME_SIDES_DB = -60.0
_USUAL_RATE_HZ = 44_100
_PHRASE_JUMP_DB = 4.5
_BOXY_DB = 4.4
#: Against the vowels; see docs/findings.md.
_SHARP_DB, _USUAL_SIBILANCE = 0.0, "-14 to -3 dB"
_RUMBLE_DB = -42.0
_MOST_TIMES = 50
#: Third octaves: two below, the three looked at, two above.
_BOX_EDGES_HZ = tuple(1000.0 * 10.0 ** ((n - 0.5) / 10.0) for n in range(-8, 2))
_INSIDE = slice(3, 6)


def intake_advice(measures: Measures) -> list[Finding]:
    """Find what is wrong with a recording.

    Parameters
    ----------
    measures : of the whole recording, all parts.

    Returns
    -------
    Findings in the order of the work, each with its figure and one thing to do; empty where nothing is
    wrong. How far to believe each: ``docs/findings.md``.
    """
    found = [rule(measures) for rule in _RULES]
    return [
        replace(finding, text=with_minus(finding.text)) for finding in found if finding is not None
    ]


def _silent(m: Measures) -> Finding | None:
    if m.sample_peak_dbfs is not None:
        return None
    return Finding(
        "silent",
        "Nothing was recorded: it is silent from the first sample to the last. Look at the input and "
        "at the channel that was exported.",
    )


def _too_low(m: Measures) -> Finding | None:
    peak, voice = m.sample_peak_dbfs, m.voice_level_dbfs
    if peak is None:
        return None
    if peak < _LOW_PEAK_DBFS:
        what = f"the highest peak is {peak:.1f} dBFS"
    elif voice is not None and voice < _LOW_VOICE_DBFS:
        what = f"the voice is at {voice:.1f} dBFS"
    else:
        return None
    return Finding(
        "too_low",
        f"Recorded low: {what}. Noise comes up with every gain; record 10 dB hotter next time.",
        add_step("Add Normalize", "normalize", target_db=-3.0),
    )


def _too_hot(m: Measures) -> Finding | None:
    peak = m.true_peak_dbtp
    if peak is None or peak <= _HOT_PEAK_DBFS or m.clipped_runs:
        return None
    return Finding(
        "too_hot",
        f"Recorded hot: the true peak is {peak:.1f} dBTP. Nothing is clipped yet; leave more room "
        "next time.",
        add_step("Add Normalize", "normalize", target_db=-3.0),
    )


def _clipped(m: Measures) -> Finding | None:
    if not m.clipped_runs:
        return None
    first = m.clipped_at_s[0]
    places = "place" if m.clipped_runs == 1 else "places"
    return Finding(
        "clipped",
        f"Clipped in {m.clipped_runs} {places}, the first at {format_time(first)}. Declip rebuilds the "
        "crests; where they were driven more than 10 dB too far, record those lines again.",
        add_step("Add Declip", "declip"),
        m.clipped_at_s[:_MOST_TIMES],
    )


def _dc_offset(m: Measures) -> Finding | None:
    worst = max(m.dc_offset, key=abs, default=0.0)
    if abs(worst) < _DC_OFFSET:
        return None
    return Finding(
        "dc_offset",
        f"The waveform rides {abs(worst) * 100:.1f} % {'above' if worst > 0 else 'below'} its "
        "middle line (DC offset).",
        add_step("Add Normalize, which removes it", "normalize", remove_dc=True),
    )


def _hum(m: Measures) -> Finding | None:
    hum = m.hum
    if hum is None:
        return None
    under = (
        ""
        if m.voice_level_dbfs is None
        else (f", {m.voice_level_dbfs - hum.level_dbfs:.0f} dB under the voice")
    )
    return Finding(
        "hum",
        f"Mains hum at {hum.base_hz} Hz and {len(hum.lines_hz) - 1} of its harmonics: "
        f"{hum.level_dbfs:.1f} dBFS{under}.",
        add_step("Add Hum", "hum"),
    )


def _one_sided(m: Measures) -> Finding | None:
    if m.sides is None:
        return None
    left, right = m.sides.left_dbfs, m.sides.right_dbfs
    if left is None and right is None:
        return None
    low, high = (-200.0 if v is None else v for v in (left, right))
    if abs(low - high) < _ONE_SIDED_DB:
        return None
    side, other = ("left", "right") if low > high else ("right", "left")
    return Finding(
        "one_sided",
        f"Stereo, but the sound is on the {side}: the {other} side is "
        f"{min(abs(low - high), 99.0):.0f} dB quieter.",
        Act("mono", f"Make mono of the {side} side", {"choice": side}),
    )


def _really_mono(m: Measures) -> Finding | None:
    sides = m.sides
    if sides is None or sides.left_dbfs is None or sides.right_dbfs is None:
        return None
    difference = -200.0 if sides.difference_dbfs is None else sides.difference_dbfs
    if difference - max(sides.left_dbfs, sides.right_dbfs) > _SAME_SIDES_DB:
        return None
    return Finding(
        "really_mono",
        "Stereo, but both sides are the same: it is a mono recording in twice the space.",
        Act("mono", "Make mono", {"choice": "mean"}),
    )


def _low_rate(m: Measures) -> Finding | None:
    if m.sample_rate_hz >= _USUAL_RATE_HZ:
        return None
    return Finding(
        "low_rate",
        f"Recorded at {m.sample_rate_hz / 1000:g} kHz: nothing above {m.sample_rate_hz / 2000:g} kHz "
        "is in it. Deliveries ask for 44.1 or 48 kHz; the rate can be converted, the sound above "
        "cannot be made.",
    )


def _level_jumps(m: Measures) -> Finding | None:
    phrases = m.speech_events.phrases if m.speech_events else ()
    jumps = [
        (b.start_s, b.level_dbfs - a.level_dbfs)
        for a, b in itertools.pairwise(phrases)
        if abs(b.level_dbfs - a.level_dbfs) >= _PHRASE_JUMP_DB
    ]
    if not jumps:
        return None
    at, most = max(jumps, key=lambda jump: abs(jump[1]))
    return Finding(
        "level_jumps",
        f"Uneven: the voice's level jumps {len(jumps)} {'time' if len(jumps) == 1 else 'times'} "
        f"from one phrase to the next, by {most:+.0f} dB at {format_time(at)}.",
        add_step("Add Leveller", "leveller"),
        tuple(t for t, _ in jumps[:_MOST_TIMES]),
    )


def _plosives(m: Measures) -> Finding | None:
    thumps = m.speech_events.thumps_s if m.speech_events else ()
    if not thumps:
        return None
    return Finding(
        "plosives",
        f"{len(thumps)} {'thump' if len(thumps) == 1 else 'thumps'} of breath on the microphone, "
        f"the first at {format_time(thumps[0])}.",
        add_step("Add Plosive", "plosive"),
        thumps[:_MOST_TIMES],
    )


def _roll_off(freq_hz: float) -> Act:
    band = {"type": "high_pass", "freq_hz": freq_hz, "slope_db_oct": 24}
    return add_step(f"Add EQ that rolls off below {freq_hz:.0f} Hz", "eq", bands=[band])


def _sibilance(m: Measures) -> Finding | None:
    if m.balance is None or m.balance.sibilance_db < _SHARP_DB:
        return None
    return Finding(
        "sibilance",
        f"Sibilance: s-sounds peak {m.balance.sibilance_db:+.0f} dB relative to the vowels; "
        f"{_USUAL_SIBILANCE} is usual.",
        add_step("Add De-esser", "de_esser"),
    )


def _rumble(m: Measures) -> Finding | None:
    if m.balance is None or m.balance.rumble_db < _RUMBLE_DB:
        return None
    return Finding(
        "rumble",
        f"Steady rumble below 40 Hz, {-m.balance.rumble_db:.0f} dB below the voice: traffic, wind, "
        "footsteps or a shaking stand.",
        _roll_off(70.0),
    )


def _boxy(m: Measures) -> Finding | None:
    found = strongest_box(m.spectrum) if m.spectrum and m.voice_level_dbfs is not None else None
    if found is None or found[1] < _BOXY_DB:
        return None
    freq_hz, over_db = found
    return Finding(
        "boxy",
        f"Resonance at {freq_hz:.0f} Hz, {over_db:.0f} dB above its neighbours.",
        add_step(
            f"Add EQ with a cut at {freq_hz:.0f} Hz",
            "eq",
            bands=[{"type": "bell", "freq_hz": round(freq_hz), "gain_db": -4.0, "q": 1.4}],
        ),
    )


def strongest_box(spectrum: Spectrum) -> tuple[float, float] | None:
    """Loudest third octave from 300 to 500 Hz, and how far these stand over their neighbours."""
    if _BOX_EDGES_HZ[-1] > spectrum.bin_hz * (len(spectrum.power) - 1):
        return None
    levels = level_between(spectrum, _BOX_EDGES_HZ)
    inside = levels[_INSIDE]
    sides = levels[: _INSIDE.start], levels[_INSIDE.stop :]
    around = sum(sum(side) / len(side) for side in sides) / 2.0
    loudest = _INSIDE.start + inside.index(max(inside))
    middle_hz = (_BOX_EDGES_HZ[loudest] * _BOX_EDGES_HZ[loudest + 1]) ** 0.5
    return middle_hz, sum(inside) / len(inside) - around


def _irregular_noise(m: Measures) -> Finding | None:
    noises = m.speech_events.noises_s if m.speech_events else ()
    if not noises:
        return None
    return Finding(
        "irregular_noise",
        f"{len(noises)} sudden {'noise' if len(noises) == 1 else 'noises'} between the words, the "
        f"first at {format_time(noises[0])}. Noise reduction by the voice model turns most of them "
        "down; cut out what stays.",
        Act("go_to", "Go to the first", {"time_s": noises[0]}),
        noises[:_MOST_TIMES],
    )


_RULES: tuple[Callable[[Measures], Finding | None], ...] = (
    _silent,
    _too_low,
    _too_hot,
    _clipped,
    _dc_offset,
    _one_sided,
    _really_mono,
    _low_rate,
    *ROOM_RULES,
    _hum,
    _irregular_noise,
    _plosives,
    _sibilance,
    _rumble,
    _boxy,
    _level_jumps,
)
