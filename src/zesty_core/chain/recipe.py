"""The recipe document (``*.zesty.json``): a saved chain.

Version 2. Unknown steps or settings, wrong types and numbers out of range are refused with the path
of the fault; missing settings take their defaults. In version 1 noise reduction without a method runs
by statistics.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from zesty_core.chain.earlier_versions import with_methods
from zesty_core.foundation.documents import parse_document
from zesty_core.foundation.errors import BadInput, BadRecipe, BadSetting
from zesty_core.foundation.titles import checked_titles
from zesty_core.steps.base import Step
from zesty_core.steps.registry import step_type

FORMAT, VERSION = "zesty-recipe", 2
MOST_STEPS = 64
MOST_BYTES = 1_000_000


@dataclass(frozen=True)
class ChainStep:
    """A step in a chain, with its switch."""

    step: Step
    enabled: bool = True

    @property
    def is_active(self) -> bool:
        """Whether it can change the sound."""
        return self.enabled and not self.step.is_neutral

    def as_json(self) -> dict[str, Any]:
        """JSON object as in the document."""
        return {
            "type": self.step.type,
            "enabled": self.enabled,
            "params": self.step.as_params(),
        }

    @classmethod
    def from_json(cls, data: object, path: str) -> ChainStep:
        """Build from a JSON object; faults carry ``path``."""
        if not isinstance(data, dict):
            raise BadSetting(path, data, "must be an object with type, enabled and params")
        _refuse_unknown(data, ("type", "enabled", "params"), f"{path}.")
        made = step_type(data.get("type"), f"{path}.type")
        enabled = data.get("enabled", True)
        if not isinstance(enabled, bool):
            raise BadSetting(f"{path}.enabled", enabled, "must be true or false")
        try:
            step = made.from_params(data.get("params", {}))
        except BadSetting as fault:
            raise fault.under(f"{path}.params" + ("." if fault.path else "")) from None
        return cls(step, enabled)


Chain = tuple[ChainStep, ...]


def chain_from_json(data: object, path: str = "steps") -> Chain:
    """Chain from a JSON list of steps.

    Parameters
    ----------
    data : object
        A list of ``{"type": ..., "enabled": ..., "params": {...}}``.
    path : str, optional
        Where errors say the list stands.

    Returns
    -------
    chain : tuple of steps
        Checked, ready to run.

    Raises
    ------
    BadInput
        Naming the step, the setting, the value and what is allowed.
    """
    if not isinstance(data, list):
        raise BadSetting(path, data, "must be a list of steps")
    if len(data) > MOST_STEPS:
        raise BadSetting(path, len(data), f"must hold at most {MOST_STEPS} steps")
    return tuple(ChainStep.from_json(entry, f"{path}[{i}]") for i, entry in enumerate(data))


def chain_as_json(chain: Chain) -> list[dict[str, Any]]:
    """JSON list of steps, every setting written out.

    Parameters
    ----------
    chain : tuple of steps
        Any chain.

    Returns
    -------
    steps : list of dict
        What ``chain_from_json`` reads.
    """
    return [c.as_json() for c in chain]


@dataclass(frozen=True)
class Recipe:
    """A named chain."""

    name: str
    chain: Chain
    description: str = ""

    @classmethod
    def of(cls, name: str, *steps: tuple[str, Mapping[str, Any]]) -> Recipe:
        """Recipe of step types with their settings; what is left out stands at its default.

        Raises :class:`BadSetting` with the fault's path.
        """
        chain = chain_from_json([{"type": kind, "params": dict(params)} for kind, params in steps])
        return cls(name, chain)

    @classmethod
    def from_json(cls, data: object) -> Recipe:
        """Build from a document's JSON."""
        if not isinstance(data, dict):
            raise BadRecipe("A recipe must be a JSON object")
        if data.get("format") != FORMAT:
            raise BadSetting("format", data.get("format"), f'must be "{FORMAT}"')
        version = data.get("version")
        if version not in range(1, VERSION + 1) or isinstance(version, bool):
            raise BadSetting("version", version, f"must be a whole number from 1 to {VERSION}")
        _refuse_unknown(data, ("format", "version", "name", "description", "steps"), "")
        name, description = checked_titles(data)
        if "steps" not in data:
            raise BadSetting("steps", None, "must be a list of steps")
        steps = with_methods(data["steps"]) if version == 1 else data["steps"]
        return cls(name, chain_from_json(steps), description)

    def as_json(self) -> dict[str, Any]:
        """Document as JSON."""
        return {
            "format": FORMAT,
            "version": VERSION,
            "name": self.name,
            "description": self.description,
            "steps": chain_as_json(self.chain),
        }


#: What an import of a recipe takes.
EXPECTED = "a recipe document, such as *Export* of a recipe gives (.zesty.json)"


def parse_recipe(text: str | bytes, name: str) -> Recipe:
    """Recipe from the text of a document called ``name``.

    Parameters
    ----------
    text : str or bytes
        The document.
    name : str
        What errors call it.

    Returns
    -------
    recipe : Recipe
        Brought up to this version.

    Raises
    ------
    BadInput
        For anything that is not a recipe.
    """
    try:
        data = parse_document(text, name, EXPECTED)
    except BadSetting:
        raise
    except BadInput as fault:
        raise BadRecipe(fault.message) from None
    return Recipe.from_json(data)


def read_recipe(path: Path) -> Recipe:
    """Recipe from a file.

    Parameters
    ----------
    path : Path
        File of the document.

    Returns
    -------
    recipe : Recipe
        Brought up to this version.

    Raises
    ------
    BadInput
        For a file that cannot be read or is not a recipe.
    """
    try:
        if path.stat().st_size > MOST_BYTES:
            raise BadRecipe(f"{path.name} is larger than a recipe can be (1 MB)")
        return parse_recipe(path.read_bytes(), path.name)
    except FileNotFoundError:
        raise BadRecipe(f"{path.name}: there is no such recipe file") from None
    except (OSError, UnicodeDecodeError) as fault:
        raise BadRecipe(f"{path.name} cannot be read: {fault}") from None


def write_recipe(recipe: Recipe) -> str:
    """Text of the document."""
    return json.dumps(recipe.as_json(), indent=2, ensure_ascii=False) + "\n"


def _refuse_unknown(data: dict[str, Any], known: tuple[str, ...], prefix: str) -> None:
    for key, value in data.items():
        if key not in known:
            raise BadSetting(f"{prefix}{key}", value, f"is not one of {', '.join(known)}")
