"""The one way in which loops over samples are compiled.

Compiled code is kept on disk, lets other threads run, and divides by zero as NumPy does: a check for
zero at every division would keep loops from being vectorised. A product and a sum may be rounded
once, together, where the processor can do both at once.

Where registers of 512 bits are there, they are used in full; by itself the compiler keeps to half of
them on many processors (measured: noise reduction gains a sixth).
"""

from __future__ import annotations

import functools
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

import llvmlite.binding
import numba
from numba import njit
from numba.core.caching import FunctionCache
from numba.core.runtime import _nrt_python  # type: ignore[attr-defined]

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


@functools.cache
def _sources_stamp() -> tuple[int, int]:
    """Changes when a source in this folder does; kernels that others call live here."""
    stats = [path.stat() for path in Path(__file__).parent.glob("*.py")]
    return max(s.st_mtime_ns for s in stats), sum(s.st_size for s in stats)


@functools.cache
def _offer_memory() -> None:
    """Tell compiled code where its memory comes from: all that it needs of the compiler's library."""
    for name, address in _nrt_python.c_helpers.items():
        llvmlite.binding.add_symbol(name if name.startswith("_") else f"NRT_{name}", address)


class _Kept(FunctionCache):
    """Compiled code on disk, fetched without first loading everything that compiling needs.

    That takes a third of a second and 25 MiB at the start of each program; the compiler does it by
    itself where nothing is kept yet. Code of other kernels is compiled into the ones that call it, so
    what is kept counts for one state of the sources here, not of its own file alone.
    """

    def _index_key(self, sig: Any, codegen: Any) -> Any:
        return *super()._index_key(sig, codegen), _sources_stamp()  # type: ignore[no-untyped-call]

    def load_overload(self, sig: Any, target_context: Any) -> Any:
        """Compiled code for arguments of these types; None if there is none."""
        _offer_memory()
        with self._guard_against_spurious_io_errors():
            return self._load_overload(sig, target_context)  # type: ignore[no-untyped-call]


def _kept(options: dict[str, Any], function: F) -> F:
    compiled = njit(**options)(function)
    # Instead of ``cache=True``, which knows one file alone.
    compiled._cache = _Kept(function)  # type: ignore[no-untyped-call]
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
