"""Fourier and cosine transforms of many rows at once, by SciPy's compiled part.

It is fetched without the rest of its package, which takes 11 MiB and a fifth of a program's start to
load, and called without the package's dispatch, which for a few rows takes longer than transforming
them and lets no other thread work meanwhile.
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
#: Rows of a few kilobytes that stay in the processor's cache while they are worked on.
_TOGETHER = 64
#: What the compiled part calls a division by the length.
_BY_LENGTH = 2


def _compiled() -> ModuleType:
    """SciPy's compiled transforms; the package finds them already loaded if it is wanted later."""
    if _NAME not in sys.modules:
        package = importlib.util.find_spec("scipy")
        folders = package.submodule_search_locations if package else None
        places = [f"{folder}/fft/_pocketfft" for folder in folders or ()]
        found = PathFinder.find_spec("pypocketfft", places)
        spec = (
            found and found.origin and importlib.util.spec_from_file_location(_NAME, found.origin)
        )
        if not spec or not spec.loader:
            return importlib.import_module(_NAME)
        module = importlib.util.module_from_spec(spec)
        spec.loader.exec_module(module)
        sys.modules[_NAME] = module
    return sys.modules[_NAME]


_transforms: Any = _compiled()


def fast_length(samples: int) -> int:
    """The shortest length from ``samples`` on that real transforms are fast at."""
    return int(_transforms.good_size(samples, True))


def spectra_of(rows: NDArray[Any], out: NDArray[Any] | None = None) -> NDArray[Any]:
    """Spectra of real rows, shape (rows, bins), at the precision of the rows; in ``out`` if given."""
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
