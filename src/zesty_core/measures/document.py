"""Measures as a JSON document that gives back exactly what went in.

For keeping them; people are shown :meth:`Measures.as_json`, which rounds.
"""

from __future__ import annotations

import functools
from typing import Any, get_origin

import numpy as np

from zesty_core.measures.report import Measures


def measures_document(measures: Measures) -> dict[str, Any]:
    """Plain JSON values."""
    document: dict[str, Any] = _converter().unstructure(measures)
    return document


def measures_from(document: object) -> Measures:
    """What :func:`measures_document` was made of; ValueError where it is no such document."""
    import cattrs

    try:
        measures: Measures = _converter().structure(document, Measures)
    except (cattrs.BaseValidationError, AttributeError, KeyError, TypeError) as fault:
        raise ValueError(f"measures: not a document of this version ({fault})") from None
    return measures


@functools.cache
def _converter() -> Any:
    # Imported when it is needed: it would take a tenth of what a short command takes.
    from cattrs.preconf.json import make_converter

    def is_array(kind: object) -> bool:
        return get_origin(kind) is np.ndarray

    def is_set(kind: object) -> bool:
        return get_origin(kind) is frozenset

    converter = make_converter(forbid_extra_keys=True)
    converter.register_unstructure_hook(float, float)
    converter.register_unstructure_hook_func(is_array, lambda values: values.tolist())
    converter.register_unstructure_hook_func(is_set, sorted)
    converter.register_structure_hook_func(is_array, lambda values, _: np.array(values))
    return converter
