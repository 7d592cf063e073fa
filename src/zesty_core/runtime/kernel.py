"""The one way in which loops over samples are compiled.

Compiled code is kept on disk (``runtime.kept_code``), lets other threads run, and divides by zero as
NumPy does: a check for zero at every division would keep loops from being vectorised. A product and
a sum may be rounded once, together, where the processor can do both at once.

Where registers of 512 bits are there, they are used in full; by itself the compiler keeps to half of
them on many processors (measured: noise reduction gains a sixth).
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

import llvmlite.binding
import numba
from numba import njit

try:
    from zesty_core.runtime.kept_code import kept_code
except (ImportError, AttributeError):  # another layout of the compiler than in the versions tried
    kept_code = None  # type: ignore[assignment]

_FEATURES = f"{llvmlite.binding.get_host_cpu_features().flatten()},-prefer-256-bit"
# The types of the library do not know of its settings.
setattr(numba.config, "CPU_FEATURES", _FEATURES)  # noqa: B010
F = TypeVar("F", bound=Callable[..., Any])
_OPTIONS: dict[str, Any] = {
    "nogil": True,
    "error_model": "numpy",
    "fastmath": {"contract"},
    # Otherwise each kernel that calls another carries a copy of it along, and of all copies that are
    # loaded the first is used by all. They may round differently: what came out depended on what had
    # been compiled or used before.
    "forceinline": True,
}


def _kept(options: dict[str, Any], function: F) -> F:
    if kept_code is None:
        return cast(F, njit(cache=True, **options)(function))
    compiled = njit(**options)(function)
    # Instead of ``cache=True``, which checks one source file alone and loads the whole compiler.
    compiled._cache = kept_code(function)
    return cast(F, compiled)


def kernel(function: F) -> F:
    """Compile a function of arrays and numbers."""
    return _kept(_OPTIONS, function)


def summing_kernel(function: F) -> F:
    """Compile a function whose sums may be added up in any order; that order is the same every time."""
    return _kept({**_OPTIONS, "fastmath": {"contract", "reassoc", "nsz"}}, function)


def inlined_kernel(function: F) -> F:
    """Compile a small function into every kernel that calls it."""
    return cast(F, njit(inline="always", **_OPTIONS)(function))
