"""Steps as earlier versions of the product kept them, brought up to this one."""

from __future__ import annotations

from typing import Any

#: Noise reduction before there was a voice model: its method, and its depth where none is kept.
_BEFORE_THE_VOICE_MODEL = {"method": "statistics", "depth_db": 20.0}


def with_methods(value: Any) -> Any:
    """JSON in which every noise reduction names its method.

    Where it does not, the steps are older than the voice model. They go on by statistics.

    Parameters
    ----------
    value : any JSON
        Steps, or what holds steps at any depth.

    Returns
    -------
    value : any JSON
        The same, with what was left out of a noise reduction as it was then.
    """
    if isinstance(value, list):
        return [with_methods(one) for one in value]
    if not isinstance(value, dict):
        return value
    made = {key: with_methods(one) for key, one in value.items()}
    params = made.get("params", {})
    if (
        made.get("type") == "noise_reduction"
        and isinstance(params, dict)
        and "method" not in params
    ):
        made["params"] = _BEFORE_THE_VOICE_MODEL | params
    return made
