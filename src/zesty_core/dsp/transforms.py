"""Fourier and cosine transforms of many rows at once, by SciPy.

Loading ``scipy.fft`` takes 28 MiB and a third of a second at the start of each program, most of it for
array libraries that are not used here. So its compiled part is loaded alone where it lies as in the
versions tried (SciPy 1.15 to 1.17); elsewhere the public functions are used. Both give the same bits.
"""

from __future__ import annotations

import importlib.util
import sys
from importlib.machinery import PathFinder
from types import ModuleType
from typing import Any

import numpy as np
from numpy.typing import NDArray

_NAME = "scipy.fft._pocketfft.pypocketfft"
_FUNCTIONS = ("r2c", "c2r", "dct", "good_size")
#: Rows of a few kilobytes that stay in the processor's cache while they are worked on.
_TOGETHER = 64
#: What the compiled part calls a division by the length.
_BY_LENGTH = 2


def _compiled() -> ModuleType | None:
    """SciPy's compiled transforms, kept where the package finds them; None if not there."""
    if _NAME not in sys.modules:
        package = importlib.util.find_spec("scipy")
        folders = package.submodule_search_locations if package else None
        places = [f"{folder}/fft/_pocketfft" for folder in folders or ()]
        found = PathFinder.find_spec("pypocketfft", places)
        spec = (
            found and found.origin and importlib.util.spec_from_file_location(_NAME, found.origin)
        )
        if not spec or not spec.loader:
            return None
        module = importlib.util.module_from_spec(spec)
        spec.loader.exec_module(module)
        if not all(hasattr(module, name) for name in _FUNCTIONS):
            return None
        sys.modules[_NAME] = module
    return sys.modules[_NAME]


class _PublicTransforms:
    """The same calls through SciPy's public functions."""

    def __init__(self) -> None:
        import scipy.fft

        self._fft = scipy.fft

    def good_size(self, samples: int, real: bool) -> int:
        return int(self._fft.next_fast_len(samples, real))

    def r2c(
        self, rows: NDArray[Any], axes: tuple[int], _forward: bool, _norm: int, out: Any = None
    ) -> NDArray[Any]:
        spectra: NDArray[Any] = self._fft.rfft(rows, axis=axes[0])
        return self._into(out, spectra)

    def c2r(
        self, spectra: NDArray[Any], axes: tuple[int], samples: int, _forward: bool, _norm: int
    ) -> NDArray[Any]:
        rows: NDArray[Any] = self._fft.irfft(spectra, samples, axis=axes[0])
        return rows

    def dct(
        self, rows: NDArray[Any], kind: int, axes: tuple[int], _norm: int, out: Any
    ) -> NDArray[Any]:
        return self._into(out, self._fft.dct(rows, kind, axis=axes[0]))

    @staticmethod
    def _into(out: NDArray[Any] | None, made: NDArray[Any]) -> NDArray[Any]:
        if out is None:
            return made
        out[...] = made
        return out


_transforms: Any = _compiled() or _PublicTransforms()


def fast_length(samples: int) -> int:
    """The shortest length from ``samples`` on that real transforms are fast at."""
    return int(_transforms.good_size(samples, True))


def spectra_of(rows: NDArray[Any], out: NDArray[Any] | None = None) -> NDArray[Any]:
    """Spectra of real rows, shape (rows, bins), at the precision of the rows; in ``out`` if given.

    Parameters
    ----------
    rows : array, shape (rows, samples)
        Real.
    out : array, shape (rows, samples // 2 + 1), optional
        Complex, at the same precision.

    Returns
    -------
    spectra : array, shape (rows, samples // 2 + 1)
        ``out``, if it was given.
    """
    spectra: NDArray[Any] = _transforms.r2c(rows, (rows.ndim - 1,), True, 0, out)
    return spectra


def rows_of(spectra: NDArray[Any], samples: int) -> NDArray[Any]:
    """Real rows of ``samples`` from their spectra."""
    rows: NDArray[Any] = _transforms.c2r(spectra, (1,), samples, False, _BY_LENGTH)
    return rows


def cosine_transform(rows: NDArray[np.float32]) -> None:
    """Cosine transform of type one, unscaled, in place."""
    # In small batches, which stay in the processor's cache.
    for first in range(0, len(rows), _TOGETHER):
        some = rows[first : first + _TOGETHER]
        _transforms.dct(some, 1, (1,), 0, some)
