"""The one way in which loops over samples are compiled.

Compiled code is kept on disk, lets other threads run, and divides by zero as NumPy does: a check for
zero at every division would keep loops from being vectorised.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

from numba import njit

F = TypeVar("F", bound=Callable[..., Any])


def kernel(function: F) -> F:
    """Compile a function of arrays and numbers."""
    return cast(F, njit(cache=True, nogil=True, error_model="numpy")(function))


def inlined_kernel(function: F) -> F:
    """Compile a small function into every kernel that calls it."""
    compiled = njit(cache=True, nogil=True, error_model="numpy", inline="always")(function)
    return cast(F, compiled)
