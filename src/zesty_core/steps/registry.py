"""All step types. Adding a step takes its module and one line here."""

from __future__ import annotations

from zesty_core.errors import BadSetting
from zesty_core.steps.ambience import Ambience
from zesty_core.steps.base import Step
from zesty_core.steps.compressor import Compressor
from zesty_core.steps.de_esser import DeEsser
from zesty_core.steps.eq import Eq
from zesty_core.steps.gain import Gain
from zesty_core.steps.gate import Gate
from zesty_core.steps.limiter import Limiter
from zesty_core.steps.loudness import Loudness
from zesty_core.steps.multiband import Multiband
from zesty_core.steps.noise_reduction import NoiseReduction
from zesty_core.steps.normalize import Normalize
from zesty_core.steps.saturation import Saturation

#: In the usual order of a chain.
STEP_TYPES: dict[str, type[Step]] = {
    step.type: step
    for step in (
        Normalize,
        NoiseReduction,
        Gate,
        DeEsser,
        Eq,
        Compressor,
        Multiband,
        Saturation,
        Ambience,
        Limiter,
        Loudness,
        Gain,
    )
}


def step_type(name: object, path: str = "type") -> type[Step]:
    """Step class by its name in recipes."""
    if not isinstance(name, str) or name not in STEP_TYPES:
        raise BadSetting(path, name, f"must be one of {', '.join(STEP_TYPES)}")
    return STEP_TYPES[name]
