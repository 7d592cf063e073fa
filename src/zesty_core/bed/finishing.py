"""What a mix is delivered by: a ceiling, and of a target whatever is not asked of the voice alone."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from zesty_core.chain.recipe import Chain, chain_from_json
from zesty_core.targets.document import BOUNDED, FileWish, Target

#: Voice and bed add up; what is over this is limited.
_CEILING_DBTP = -1.0
#: There is music in the pauses and at the ends.
_OF_THE_VOICE = ("noise_floor_dbfs", "head_s", "tail_s")
#: Measures of the file that mean nothing with music under the voice.
UNKNOWN_OF_MIX: dict[str, Any] = {
    "noise_floor_dbfs": None,
    "noise_floor_source": None,
    "clearance_db": None,
}


def mix_chain() -> Chain:
    """What the sum of voice and bed is run through."""
    return chain_from_json([{"type": "limiter", "params": {"ceiling_dbtp": _CEILING_DBTP}}])


def target_of_mix(target: Target, wish: FileWish) -> Target | None:
    """The target with this kind of file; None where it asks nothing of a mix."""
    bounds = {k: v for k, v in target.bounds.items() if k not in _OF_THE_VOICE}
    if not bounds and wish == FileWish():
        return None
    return replace(target, bounds=bounds, file=wish)


def not_asked(target: Target) -> list[str]:
    """Labels of what the target asks of a voice alone."""
    return [BOUNDED[name].label for name in _OF_THE_VOICE if name in target.bounds]
