"""Compiled loops on disk: where they lie, for which sources they count, how they are fetched."""

from __future__ import annotations

import contextlib
import functools
from collections.abc import Callable
from pathlib import Path
from typing import Any

import llvmlite.binding
from numba.core.caching import (
    CompileResultCacheImpl,
    FunctionCache,
    InTreeCacheLocator,
    NullCache,
)
from numba.core.runtime import _nrt_python  # type: ignore[attr-defined]

from zesty_core.runtime.compile_events import compiled


@functools.cache
def _sources_stamp() -> tuple[int, int]:
    """Changes when a source does that may hold kernels which others call."""
    core = Path(__file__).parents[1]
    stats = [path.stat() for room in ("dsp", "runtime") for path in (core / room).glob("*.py")]
    return max(s.st_mtime_ns for s in stats), sum(s.st_size for s in stats)


@functools.cache
def _offer_memory() -> None:
    """Tell compiled code where its memory comes from: all that it needs of the compiler's library."""
    for name, address in _nrt_python.c_helpers.items():
        llvmlite.binding.add_symbol(name if name.startswith("_") else f"NRT_{name}", address)


class _AsShipped(InTreeCacheLocator):
    """Beside the sources, as set-up left it, for whoever may write neither there nor at home."""

    def ensure_cache_path(self) -> None:
        if not Path(self.get_cache_path()).is_dir():  # type: ignore[no-untyped-call]
            raise FileNotFoundError(self.get_cache_path())  # type: ignore[no-untyped-call]


class _WhereItIs(CompileResultCacheImpl):
    _locator_classes = [*CompileResultCacheImpl._locator_classes, _AsShipped]  # noqa: RUF012


class _KeptCode(FunctionCache):
    """Compiled code on disk, fetched without first loading everything that compiling needs.

    That takes a third of a second and 25 MiB at the start of each program; the compiler does it by
    itself where nothing is kept yet. Code of other kernels is compiled into the ones that call it, so
    what is kept counts for one state of the sources here, not of its own file alone.
    """

    _impl_class = _WhereItIs

    def _index_key(self, sig: Any, codegen: Any) -> Any:
        return *super()._index_key(sig, codegen), _sources_stamp()  # type: ignore[no-untyped-call]

    def load_overload(self, sig: Any, target_context: Any) -> Any:
        """Compiled code for arguments of these types; None if there is none."""
        _offer_memory()
        with self._guard_against_spurious_io_errors():
            return self._load_overload(sig, target_context)  # type: ignore[no-untyped-call]

    def save_overload(self, sig: Any, data: Any) -> None:
        """Keep it, where that is possible; otherwise the next program compiles it again."""
        compiled()
        with contextlib.suppress(OSError):
            super().save_overload(sig, data)  # type: ignore[no-untyped-call]


def kept_code(function: Callable[..., Any]) -> Any:
    """What is kept of a function; nothing where there is no place for it."""
    try:
        return _KeptCode(function)  # type: ignore[no-untyped-call]
    except RuntimeError:
        return NullCache()
