"""All step types: those of the product, and those that installed packages provide.

A package provides steps by an entry point of the group ``zesty.steps`` whose object is a class derived
from :class:`~zesty_core.steps.base.Step`. Its distribution's name and version go into receipts.
"""

from __future__ import annotations

import re
import warnings
from dataclasses import dataclass
from importlib.metadata import EntryPoint, entry_points

from zesty_core.foundation.errors import BadSetting
from zesty_core.steps.ambience import Ambience
from zesty_core.steps.base import Step
from zesty_core.steps.breath import Breath
from zesty_core.steps.click import Click
from zesty_core.steps.compressor import Compressor
from zesty_core.steps.crosstalk import Crosstalk
from zesty_core.steps.de_esser import DeEsser
from zesty_core.steps.declip import Declip
from zesty_core.steps.eq import Eq
from zesty_core.steps.gain import Gain
from zesty_core.steps.gate import Gate
from zesty_core.steps.house_voice import HouseVoiceStep
from zesty_core.steps.hum import Hum
from zesty_core.steps.leveller import Leveller
from zesty_core.steps.limiter import Limiter
from zesty_core.steps.loudness import Loudness
from zesty_core.steps.multiband import Multiband
from zesty_core.steps.noise_reduction import NoiseReduction
from zesty_core.steps.normalize import Normalize
from zesty_core.steps.plosive import Plosive
from zesty_core.steps.room import Room
from zesty_core.steps.saturation import Saturation

GROUP = "zesty.steps"
_TYPE = re.compile(r"[a-z][a-z0-9_]{1,39}")

_BEFORE_THE_ENDING: tuple[type[Step], ...] = (
    Declip,
    Click,
    Plosive,
    Normalize,
    Hum,
    NoiseReduction,
    Room,
    Crosstalk,
    Breath,
    Gate,
    DeEsser,
    Eq,
    HouseVoiceStep,
    Leveller,
    Compressor,
    Multiband,
    Saturation,
    Ambience,
)
_ENDING: tuple[type[Step], ...] = (Limiter, Loudness, Gain)


@dataclass(frozen=True)
class StepProvider:
    """The package that provides a step."""

    package: str
    version: str

    def as_json(self) -> dict[str, str]:
        """JSON object."""
        return {"package": self.package, "version": self.version}


def load_provided(points: list[EntryPoint]) -> dict[type[Step], StepProvider]:
    """Steps of entry points. One that cannot serve is left out, with a warning that says why."""
    own = {step.type for step in (*_BEFORE_THE_ENDING, *_ENDING)}
    found: dict[type[Step], StepProvider] = {}
    for point in sorted(points, key=lambda p: p.name):
        try:
            step = point.load()
            why_not = _why_not(step, own | {s.type for s in found})
        except Exception as fault:  # a package of others may fail in any way
            why_not = f"{type(fault).__name__}: {fault}"
        if why_not:
            warnings.warn(
                f"step {point.name} of {point.value} is left out: {why_not}", stacklevel=2
            )
            continue
        package = point.dist
        found[step] = StepProvider(
            package.name if package else point.module, package.version if package else "unknown"
        )
    return found


def _why_not(step: object, taken: set[str]) -> str | None:
    if not (isinstance(step, type) and issubclass(step, Step)):
        return "it is not derived from Step"
    kind = getattr(step, "type", None)
    if not isinstance(kind, str) or not _TYPE.fullmatch(kind):
        return f"its type {kind!r} must be 2 to 40 small letters, digits and underscores"
    if kind in taken:
        return f"the type {kind!r} is taken"
    step().describe()
    return None


#: Package that provides each step that is not the product's own.
PROVIDED: dict[type[Step], StepProvider] = load_provided([*entry_points(group=GROUP)])
#: In the usual order of a chain; steps of packages come before the final level.
STEP_TYPES: dict[str, type[Step]] = {
    step.type: step for step in (*_BEFORE_THE_ENDING, *PROVIDED, *_ENDING)
}


def step_type(name: object, path: str = "type") -> type[Step]:
    """Step class by its name in recipes.

    Parameters
    ----------
    name : object
        Type of a step, such as ``"gain"``.
    path : str, optional
        Where errors say it stands.

    Returns
    -------
    step_class : type of Step
        Its settings are its fields.

    Raises
    ------
    BadInput
        Naming the types there are.
    """
    if not isinstance(name, str) or name not in STEP_TYPES:
        raise BadSetting(path, name, f"must be one of {', '.join(STEP_TYPES)}")
    return STEP_TYPES[name]


def provider_of(name: str) -> StepProvider | None:
    """Package that provides the step of this type; None for one of the product's own."""
    step = STEP_TYPES.get(name)
    return PROVIDED.get(step) if step else None
