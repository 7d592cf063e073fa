"""Processing of recorded voice: steps, chains, measures. No interface, no database, no printing.

For scripts: ``import zesty_core as zv``, then :func:`load_recipe`, :func:`measure`, :func:`process`,
:func:`deliver` (see :mod:`zesty_core.scripting`). Signals are arrays of shape ``(channels, samples)``;
levels in names carry their unit.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from zesty_core.foundation.version import ENGINE_VERSION, __version__

if TYPE_CHECKING:
    from zesty_core.scripting import (
        Delivered,
        Measures,
        Processed,
        Recipe,
        Target,
        deliver,
        load_recipe,
        load_target,
        measure,
        process,
        recipes,
    )

__all__ = (
    "ENGINE_VERSION",
    "Delivered",
    "Measures",
    "Processed",
    "Recipe",
    "Target",
    "__version__",
    "deliver",
    "load_recipe",
    "load_target",
    "measure",
    "process",
    "recipes",
)


def __getattr__(name: str) -> Any:
    """What scripts use, loaded when it is first asked for: the command line answers at once."""
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    from zesty_core import scripting

    return getattr(scripting, name)
