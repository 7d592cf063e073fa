"""The one way in which loops over samples are compiled.

Compiled code is kept on disk, lets other threads run, and divides by zero as NumPy does: a check for
zero at every division would keep loops from being vectorised. A product and a sum may be rounded
once, together, where the processor can do both at once.

Where registers of 512 bits are there, they are used in full; by itself the compiler keeps to half of
them on many processors (measured: noise reduction gains a sixth).
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

import llvmlite.binding
import numba
from numba import njit

_FEATURES = f"{llvmlite.binding.get_host_cpu_features().flatten()},-prefer-256-bit"
# The types of the library do not know of its settings.
setattr(numba.config, "CPU_FEATURES", _FEATURES)  # noqa: B010
F = TypeVar("F", bound=Callable[..., Any])
_OPTIONS: dict[str, Any] = {
    "cache": True,
    "nogil": True,
    "error_model": "numpy",
    "fastmath": {"contract"},
}


def kernel(function: F) -> F:
    """Compile a function of arrays and numbers."""
    return cast(F, njit(**_OPTIONS)(function))


def inlined_kernel(function: F) -> F:
    """Compile a small function into every kernel that calls it."""
    return cast(F, njit(inline="always", **_OPTIONS)(function))
