"""How the work of a run is spread over its passes, for a good estimate of the time left.

Rough times of one core for a sample of one channel; nothing but progress depends on them.
"""

from __future__ import annotations

from dataclasses import dataclass

from zesty_core.chain.recipe import Chain

_MEASURING_NS = 12.0
_RESULT_NS = 11.0
_TRIAL_NS = 3.0
#: Between passes: what the next step must know, and the spool.
_BETWEEN_NS = 8.0
_LEVELS_NS = 3.0
#: What tells voices apart.
_SPEAKERS_NS = 25.0
_READING_NS = 2.0
#: A plain file.
SINK_NS = 3.0


@dataclass
class _Plan:
    passes_ns: list[float]
    pending_ns: float = 0.0

    def end_pass(self, meter_ns: float) -> None:
        self.passes_ns.append(_READING_NS + self.pending_ns + meter_ns)
        self.pending_ns = 0.0


def planned_passes_ns(chain: Chain, measured: bool, sink_ns: float = SINK_NS) -> list[float]:
    """Expected work of each pass; ``measured`` tells whether the recording's measures are known,
    ``sink_ns`` how long what takes the finished sound is at a sample of one channel.

    The runner decides as it learns of the sound: there may be passes fewer, never more.
    """
    plan = _Plan([] if measured else [_READING_NS + _MEASURING_NS])
    at_hand = whole = True  # every part of the recording's measures, later some
    for step in (entry.step for entry in chain if entry.is_active):
        wanted = step.measures_wanted
        voices_ns = _SPEAKERS_NS if "speakers" in wanted else 0.0
        if (wanted and not at_hand) or voices_ns:
            plan.end_pass(_BETWEEN_NS + voices_ns)
            at_hand, whole = True, whole and at_hand
        if step.wants_trial:
            if plan.pending_ns:
                plan.end_pass(_BETWEEN_NS)
            plan.passes_ns.append(_READING_NS + step.work_ns + _TRIAL_NS)
        plan.pending_ns += step.work_ns + (0.0 if step.may_be_plain_gain else _LEVELS_NS)
        at_hand = at_hand and whole and step.may_be_plain_gain
    plan.end_pass((0.0 if at_hand else _RESULT_NS) + sink_ns)
    return plan.passes_ns
