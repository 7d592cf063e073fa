"""Transforms against SciPy's own way to them."""

from __future__ import annotations

import subprocess
import sys

import numpy as np
import pytest
import scipy.fft

from zesty_core.dsp import transforms
from zesty_core.dsp.transforms import cosine_transform, fast_length, rows_of, spectra_of


@pytest.fixture(params=["compiled part", "public functions"], autouse=True)
def _way(request, monkeypatch):
    if request.param == "public functions":
        monkeypatch.setattr(transforms, "_transforms", transforms._PublicTransforms())


@pytest.mark.parametrize("rows", [0, 1, 5, 200])
@pytest.mark.parametrize("dtype", [np.float32, np.float64])
def test_spectra_and_back(rows, dtype):
    sound = np.random.default_rng(rows).standard_normal((rows, 960)).astype(dtype)
    spectra = spectra_of(sound)
    assert np.array_equal(spectra, scipy.fft.rfft(sound))
    assert rows_of(spectra, 960) == pytest.approx(sound, abs=1e-5)
    assert rows_of(spectra, 960).dtype == dtype


@pytest.mark.parametrize("rows", [0, 1, 64, 150])
def test_cosine_transform_takes_the_place_of_its_rows(rows):
    made = np.random.default_rng(rows).standard_normal((rows, 513)).astype(np.float32)
    expected = scipy.fft.dct(made, type=1)
    cosine_transform(made)
    assert made == pytest.approx(expected, abs=1e-3)


@pytest.mark.parametrize("samples", [1, 7, 1021, 4096, 4097])
def test_fast_lengths(samples):
    assert fast_length(samples) == scipy.fft.next_fast_len(samples, real=True)


@pytest.mark.parametrize("first", ["zesty_core.dsp.transforms", "scipy.fft"])
def test_the_package_can_be_loaded_before_or_after(first):
    code = (
        f"import sys, {first}; assert ('scipy.fft' in sys.modules) == ({first!r} == 'scipy.fft');"
        "import scipy.fft, zesty_core.dsp.transforms as t; t.spectra_of(scipy.fft.irfft([1, 2]))"
    )
    subprocess.run([sys.executable, "-c", code], check=True)
