"""A chain made for one recording, from what was measured, with a reason for every step and setting.

It holds only steps that are needed; a clean take gets a calibration and a final level. Limits are
common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from zesty_core.advice.finding import with_minus
from zesty_core.advice.intake import intake_advice, strongest_box
from zesty_core.chain.recipe import Chain, ChainStep, chain_from_json
from zesty_core.measures.noise_floor_shift import is_heard_there
from zesty_core.measures.report import Measures
from zesty_core.targets.document import Target

#: Stretches from 300 to 500 Hz that stand out so far are a room's; a voice's own by the third.
_BOXY_DB, _MOST_CUT_DB, _NATURAL_BOX_DB = 6.5, 4.0, 4.0
#: A filter begins so far under the voice's lowest band.
_UNDER_VOICE = 0.85
_RUMBLE_CORNER_HZ, _LEAST_CORNER_HZ = 70.0, 40.0
#: The voice's lowest band lies no further under its strongest.
_LOWEST_BAND_DB = 15.0
_LOWEST_HZ, _STRONGEST_HZ = 70.0, 600.0
#: From this clearance on nobody hears the room; below, so much of it is aimed at.
_CLEAR_DB, _AIM_DB = 45.0, 60.0
_LEAST_DEPTH_DB, _MOST_DEPTH_DB = 10.0, 25.0
_FLOOR_MARGIN_DB = 3.0
#: Phrases spread over more than this are uneven; from the second on strongly so.
_UNEVEN_DB, _VERY_UNEVEN_DB = 6.0, 12.0
_FEWEST_PHRASES = 4
#: A limiter alone takes so much off the highest peaks without being audible.
_MOST_LIMITED_DB = 6.0
_CEILING_DBTP = -1.0
_NORMALIZED_DBTP = -3.0
_LUFS_MONO, _LUFS_STEREO = -19.0, -16.0


@dataclass(frozen=True)
class ProposedStep:
    """A step, why it is there, and why its settings are as they are."""

    entry: ChainStep
    reasons: tuple[str, ...]
    #: Codes of the findings that it mends.
    mends: tuple[str, ...] = ()

    def as_json(self) -> dict[str, Any]:
        """JSON object: the step as in a recipe, reasons and findings beside it."""
        return {
            "step": self.entry.as_json(),
            "reasons": list(self.reasons),
            "mends": list(self.mends),
        }


@dataclass(frozen=True)
class Proposal:
    """Steps in order, and notes on what no step mends."""

    steps: tuple[ProposedStep, ...]
    notes: tuple[str, ...] = ()

    @property
    def chain(self) -> Chain:
        """The chain to run."""
        return tuple(step.entry for step in self.steps)

    def as_json(self) -> dict[str, Any]:
        """JSON object."""
        return {"steps": [step.as_json() for step in self.steps], "notes": list(self.notes)}


def propose_chain(measures: Measures, target: Target | None = None) -> Proposal:
    """Propose a chain for a recording.

    Parameters
    ----------
    measures : Measures
        Of the whole recording, all parts.
    target : Target, optional
        What the result has to meet. Without one, the loudness of a podcast.

    Returns
    -------
    proposal : Proposal
        Without steps where nobody speaks.
    """
    if measures.voice_level_dbfs is None:
        return Proposal((), ("No voice was found in this recording: there is nothing to propose.",))
    found = {finding.code: finding for finding in intake_advice(measures)}
    case = _Case(measures, target, frozenset(found))
    steps = tuple(step for rule in _RULES if (step := rule(case)) is not None)
    mended = {code for step in steps for code in step.mends}
    notes = [f.text for code, f in found.items() if code not in mended and code in _NOTED]
    return Proposal(steps, tuple(notes))


#: Findings that are repeated beside a proposal, since no step of it mends them.
_NOTED = frozenset(
    {
        "clipped",
        "one_sided",
        "really_mono",
        "low_rate",
        "irregular_noise",
        "no_room_tone",
        "short_room_tone",
        "restless_room",
    }
)


@dataclass(frozen=True)
class _Case:
    """What the rules look at."""

    measures: Measures
    target: Target | None
    codes: frozenset[str]

    @property
    def voice_dbfs(self) -> float:
        assert self.measures.voice_level_dbfs is not None
        return self.measures.voice_level_dbfs

    @property
    def level(self) -> tuple[str, float]:
        """Measure of the final level, and what it is to be."""
        if self.target is not None and self.target.level is not None:
            name, bound = self.target.level
            return name, bound.middle
        return "integrated_lufs", _LUFS_MONO if self.measures.channels == 1 else _LUFS_STEREO

    @property
    def ceiling_dbtp(self) -> float:
        ceiling = None if self.target is None else self.target.ceiling_dbtp
        return _CEILING_DBTP if ceiling is None else ceiling

    @property
    def gain_db(self) -> float:
        """What the final level adds to the recording."""
        name, aim = self.level
        now = getattr(self.measures, name)
        return 0.0 if now is None else aim - now

    @property
    def excess_db(self) -> float:
        """How far the highest peak would stand over the ceiling at the final level."""
        peak = self.measures.true_peak_dbtp
        return 0.0 if peak is None else peak + self.gain_db - self.ceiling_dbtp

    @property
    def spread_db(self) -> float | None:
        """From the softest to the loudest phrases, 10th to 90th percentile; None for few phrases."""
        events = self.measures.speech_events
        levels = [phrase.level_dbfs for phrase in events.phrases] if events else []
        if len(levels) < _FEWEST_PHRASES:
            return None
        return float(np.subtract(*np.percentile(levels, (90, 10))))


def _step(
    kind: str, params: dict[str, Any], reasons: list[str], mends: tuple[str, ...] = ()
) -> ProposedStep:
    (entry,) = chain_from_json([{"type": kind, "params": params}])
    return ProposedStep(entry, tuple(with_minus(reason) for reason in reasons), mends)


def _normalize(case: _Case) -> ProposedStep:
    peak = case.measures.true_peak_dbtp
    reasons = [
        f"Brings the true peak from {peak:.1f} to -3.0 dBTP: what follows then works alike on every "
        "recording."
    ]
    offset = max(case.measures.dc_offset, key=abs, default=0.0)
    if "dc_offset" in case.codes:
        reasons.append(f"Removes a DC offset of {100 * abs(offset):.1f} %.")
    mends = tuple(c for c in ("too_low", "too_hot", "dc_offset") if c in case.codes)
    return _step("normalize", {"target_db": _NORMALIZED_DBTP, "peak": "true"}, reasons, mends)


def _voice_begins_hz(measures: Measures) -> float | None:
    """Middle of the lowest third octave that belongs to the voice."""
    if measures.spectrum is None:
        return None
    bands = [(hz, db) for hz, db in measures.spectrum.third_octaves() if db is not None]
    strongest = max((db for hz, db in bands if _LOWEST_HZ <= hz <= _STRONGEST_HZ), default=None)
    if strongest is None:
        return None
    own = [hz for hz, db in bands if hz >= _LOWEST_HZ and db >= strongest - _LOWEST_BAND_DB]
    return min(own, default=None)


def _declip(case: _Case) -> ProposedStep | None:
    count = case.measures.clipped_runs
    if not count:
        return None
    places = "place" if count == 1 else "places"
    reason = f"Crests were cut off in {count} {places}: they are rebuilt before anything else."
    # What follows brings the peak to its place.
    return _step("declip", {"room_db": 0.0}, [reason], ("clipped",))


def _plosive(case: _Case) -> ProposedStep | None:
    if "plosives" not in case.codes or case.measures.speech_events is None:
        return None
    count = len(case.measures.speech_events.thumps_s)
    thumps = "1 thump" if count == 1 else f"{count} thumps"
    hit = "hits" if count == 1 else "hit"
    reason = f"{thumps} of breath {hit} the microphone: each goes down by itself, the voice stays."
    return _step("plosive", {}, [reason], ("plosives",))


def _hum(case: _Case) -> ProposedStep | None:
    hum = case.measures.hum
    if hum is None:
        return None
    under_db = case.voice_dbfs - hum.level_dbfs
    reason = (
        f"Mains hum at {hum.base_hz} Hz, {hum.level_dbfs:.0f} dBFS, {under_db:.0f} dB under the voice: "
        "its tones are taken out one by one."
    )
    return _step("hum", {}, [reason], ("hum",))


def _cuts(case: _Case) -> ProposedStep | None:
    """Rumble and a resonance: everything that is cut before the noise is learned."""
    m = case.measures
    bands: list[dict[str, Any]] = []
    reasons: list[str] = []
    begins_hz = _voice_begins_hz(m)
    if "rumble" in case.codes:
        corner_hz = _RUMBLE_CORNER_HZ
        if begins_hz is not None:
            corner_hz = max(_LEAST_CORNER_HZ, min(corner_hz, round(_UNDER_VOICE * begins_hz)))
        # A steep slope close to the voice turns its lowest partials about.
        is_far = begins_hz is None or corner_hz <= 0.6 * begins_hz
        slope_db_oct = 24 if is_far else 12
        bands.append({"type": "high_pass", "freq_hz": corner_hz, "slope_db_oct": slope_db_oct})
        voice = "" if begins_hz is None else f", and this voice begins at about {begins_hz:.0f} Hz"
        reasons.append(f"High-pass at {corner_hz:.0f} Hz: steady rumble lies below 40 Hz{voice}.")
    box = strongest_box(m.spectrum) if "boxy" in case.codes and m.spectrum is not None else None
    if box is not None and box[1] >= _BOXY_DB:
        freq_hz, over_db = box
        cut_db = -round(min(_MOST_CUT_DB, over_db - _NATURAL_BOX_DB), 1)
        bands.append({"type": "bell", "freq_hz": round(freq_hz), "gain_db": cut_db, "q": 1.4})
        reasons.append(
            f"{cut_db:.1f} dB at {freq_hz:.0f} Hz: the room rings there, {over_db:.0f} dB above its "
            "neighbours."
        )
    mends = tuple(c for c in ("rumble", "boxy") if c in case.codes)
    return _step("eq", {"bands": bands}, reasons, mends) if bands else None


def _is_room_audible(m: Measures) -> bool:
    """Whether the room is audible between the words."""
    return m.room_is_heard and m.clearance_db is not None and m.clearance_db < _CLEAR_DB


def _noise_reduction(case: _Case) -> ProposedStep | None:
    m = case.measures
    if not m.room_is_heard or m.clearance_db is None or m.noise_floor_dbfs is None:
        return None
    depth_db = _AIM_DB - m.clearance_db if _is_room_audible(m) else 0.0
    reasons = [f"The room lies {m.clearance_db:.0f} dB under the voice and is audible."]
    floor = None if case.target is None else case.target.bounds.get("noise_floor_dbfs")
    if floor is not None and floor.high is not None:
        over_db = m.noise_floor_dbfs + case.gain_db - floor.high + _FLOOR_MARGIN_DB
        if over_db > max(0.0, depth_db):
            depth_db = over_db
            reasons = [
                f"At the final level the room would stand at {m.noise_floor_dbfs + case.gain_db:.0f} "
                f"dBFS; the target allows {floor.high:g}."
            ]
    if depth_db <= 0.0:
        return None
    depth_db = round(min(_MOST_DEPTH_DB, max(_LEAST_DEPTH_DB, depth_db)))
    reasons[0] += f" Down by {depth_db:.0f} dB."
    params: dict[str, Any] = {"depth_db": depth_db}
    mends = [c for c in ("low_clearance",) if c in case.codes]
    if m.noise_floor_shift is not None and is_heard_there(m.noise_floor_shift, m.clearance_db):
        params["track_noise"] = True
        reasons.append("Follows the noise: the room gets louder on the way.")
        mends.append("noise_floor_shift")
    return _step("noise_reduction", params, reasons, tuple(mends))


def _de_esser(case: _Case) -> ProposedStep | None:
    balance = case.measures.balance
    if "sibilance" not in case.codes or balance is None:
        return None
    most_db = round(min(8.0, max(4.0, 4.0 + balance.sibilance_db)), 1)
    reason = (
        f"S-sounds peak {balance.sibilance_db:+.0f} dB relative to the vowels, where -14 to -3 dB is "
        f"usual: up to {most_db:g} dB off them."
    )
    return _step("de_esser", {"max_reduction_db": most_db}, [reason], ("sibilance",))


def _leveller(case: _Case) -> ProposedStep | None:
    spread_db = case.spread_db
    if spread_db is None or spread_db < _UNEVEN_DB:
        return None
    params: dict[str, Any] = {"speakers": "find"}
    reasons = [
        f"Phrases spread over {spread_db:.0f} dB: each comes closer to the level of all.",
        "Where more than one speaks, each comes to one level first.",
    ]
    if spread_db >= _VERY_UNEVEN_DB:
        params["range_db"] = 18.0
        reasons.append("Range 18 dB: some are further away than the usual 12.")
    return _step("leveller", params, reasons, ("level_jumps",))


def _compressor(case: _Case) -> ProposedStep | None:
    excess_db = case.excess_db
    if excess_db <= _MOST_LIMITED_DB:
        return None
    return _step(
        "compressor",
        {
            "follow_voice": True,
            "quiet_guard_db": -24.0,
            "threshold_db": 3.0,
            "ratio": 3.0,
            "attack_ms": 5.0,
        },
        [
            f"At the final level the highest peak would stand {excess_db:.0f} dB over the ceiling, "
            "more than a limiter takes unheard: loud words come down first, 3:1 from 3 dB over the "
            "voice level.",
            "Quiet guard at -24 dB: the room between the words is not lifted.",
        ],
    )


def _limiter(case: _Case) -> ProposedStep | None:
    peak = case.measures.true_peak_dbtp
    if peak is None or case.excess_db <= -1.0:
        return None
    # What normalize has added is there already. The last step adds what the steps between take away.
    left_db = max(1.0, 0.15 * case.excess_db)
    drive_db = case.gain_db - (_NORMALIZED_DBTP - peak)
    over = f"{case.excess_db:.1f} dB over" if case.excess_db > 0 else "just under"
    return _step(
        "limiter",
        {
            "input_gain_db": round(min(24.0, max(-24.0, drive_db)), 1),
            "ceiling_dbtp": round(case.ceiling_dbtp - left_db, 1),
        },
        [
            f"At the final level the highest peak would stand {over} {case.ceiling_dbtp:g} dBTP. Peaks "
            f"are held under {case.ceiling_dbtp - left_db:.1f} dBTP, so that the last step finds room."
        ],
    )


def _loudness(case: _Case) -> ProposedStep:
    name, aim = case.level
    kind, unit = ("lufs", "LUFS") if name == "integrated_lufs" else ("rms", "dBFS")
    asked = f"{case.target.name} asks for it" if case.target else "as loud as podcasts are"
    now = getattr(case.measures, name)
    before = "" if now is None else f"; the recording is at {now:.1f}"
    return _step(
        "loudness",
        {"measure": kind, "target": aim, "ceiling_dbtp": case.ceiling_dbtp},
        [f"{aim:g} {unit} under {case.ceiling_dbtp:g} dBTP: {asked}{before}."],
    )


_RULES: tuple[Callable[[_Case], ProposedStep | None], ...] = (
    _declip,
    _plosive,
    _normalize,
    _hum,
    _cuts,
    _noise_reduction,
    _de_esser,
    _leveller,
    _compressor,
    _limiter,
    _loudness,
)
