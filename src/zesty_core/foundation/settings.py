"""Declaration of settings: each is written once, everything else derives from it.

A step or a band is a frozen dataclass whose fields are made by :func:`number`, :func:`choice`,
:func:`switch`, :func:`number_or_word`, :func:`numbers` and :func:`records`. Validation on
construction, the recipe document, the API's description, the form on the page and the documentation
all read the same declaration.
"""

from __future__ import annotations

import dataclasses
import itertools
import math
from collections.abc import Mapping
from typing import Any, ClassVar

from zesty_core.foundation.errors import BadSetting


@dataclasses.dataclass(frozen=True)
class Setting:
    """What is known about one setting besides its name (the field's)."""

    kind: str  # number, numbers, choice, switch, records
    label: str
    help: str
    unit: str = ""
    low: float | None = None
    high: float | None = None
    usual: tuple[float, float] | None = None
    increment: float | None = None
    scale: str = "linear"
    choices: tuple[str | int, ...] = ()
    word: str | None = None
    record: type[Declared] | None = None
    most: int | None = None
    matters_for: tuple[str, ...] = ()
    #: Usual range of a threshold while the step follows the voice.
    usual_following: tuple[float, float] | None = None
    #: What choices are called, where their names in the document are not the words of the page.
    words: Mapping[str, str] = dataclasses.field(default_factory=dict)
    #: Name of the choice that decides the unit, and the unit for each of its choices.
    unit_by: tuple[str, Mapping[str, str]] | None = None

    @property
    def is_share(self) -> bool:
        """Whether it is a share of one, which people read in percent."""
        return self.kind == "number" and self.unit == "" and self.high == 1.0

    def describe(self, name: str, default: object) -> dict[str, Any]:
        """JSON description of the setting for forms and documentation."""
        return {
            "name": name,
            "kind": self.kind,
            "label": self.label,
            "help": self.help,
            "unit": self.unit,
            "low": self.low,
            "high": self.high,
            "usual": list(self.usual) if self.usual else None,
            "usual_following": list(self.usual_following) if self.usual_following else None,
            "increment": self.increment,
            "scale": self.scale,
            "choices": list(self.choices),
            "words": dict(self.words),
            "unit_by": {"setting": self.unit_by[0], "units": dict(self.unit_by[1])}
            if self.unit_by
            else None,
            "word": self.word,
            "most": self.most,
            "matters_for": list(self.matters_for),
            "record": self.record.describe() if self.record else None,
            "default": _as_json(default),
        }


def _field(default: Any, setting: Setting) -> Any:
    return dataclasses.field(default=default, metadata={"setting": setting})


def number(
    label: str,
    *,
    default: float,
    low: float,
    high: float,
    help: str,
    unit: str = "",
    usual: tuple[float, float] | None = None,
    increment: float = 0.1,
    scale: str = "linear",
    matters_for: tuple[str, ...] = (),
    usual_following: tuple[float, float] | None = None,
    unit_by: tuple[str, Mapping[str, str]] | None = None,
) -> Any:
    """Declare a number within ``low`` to ``high`` inclusive."""
    declared = Setting("number", label, help, unit, low, high, usual, increment, scale)
    return _field(
        default,
        dataclasses.replace(
            declared, matters_for=matters_for, usual_following=usual_following, unit_by=unit_by
        ),
    )


def number_or_word(
    label: str,
    *,
    word: str,
    default: float | str,
    low: float,
    high: float,
    help: str,
    unit: str = "",
    usual: tuple[float, float] | None = None,
    increment: float = 0.1,
) -> Any:
    """Declare a number that may also be one fixed word, such as ``"auto"``."""
    return _field(
        default, Setting("number", label, help, unit, low, high, usual, increment, word=word)
    )


def numbers(
    label: str,
    *,
    default: tuple[float, ...],
    low: float,
    high: float,
    most: int,
    help: str,
    unit: str = "",
    increment: float = 1,
    scale: str = "linear",
) -> Any:
    """Declare a rising list of 1 to ``most`` numbers, each within ``low`` to ``high``."""
    return _field(
        default,
        Setting(
            "numbers", label, help, unit, low, high, increment=increment, scale=scale, most=most
        ),
    )


def choice(
    label: str,
    *,
    default: str | int,
    choices: tuple[str | int, ...],
    help: str,
    unit: str = "",
    matters_for: tuple[str, ...] = (),
    words: Mapping[str, str] | None = None,
) -> Any:
    """Declare one of a few words or whole numbers; ``words`` are what the page calls them."""
    declared = Setting("choice", label, help, unit, choices=choices, matters_for=matters_for)
    return _field(default, dataclasses.replace(declared, words=words or {}))


def switch(label: str, *, default: bool, help: str) -> Any:
    """Declare an on/off setting."""
    return _field(default, Setting("switch", label, help))


def records(
    label: str,
    record: type[Declared],
    *,
    default: tuple[Any, ...] = (),
    most: int,
    help: str,
) -> Any:
    """Declare a list of records, such as the bands of an EQ."""
    return _field(default, Setting("records", label, help, record=record, most=most))


@dataclasses.dataclass(frozen=True, kw_only=True)
class Declared:
    """A frozen description whose fields are declared settings, checked on construction."""

    label: ClassVar[str] = ""

    def __post_init__(self) -> None:
        for name, setting in self.settings().items():
            object.__setattr__(self, name, _checked(name, getattr(self, name), setting))

    @classmethod
    def settings(cls) -> dict[str, Setting]:
        """Declared settings by name, in order."""
        return {
            field.name: field.metadata["setting"]
            for field in dataclasses.fields(cls)
            if "setting" in field.metadata
        }

    @classmethod
    def describe(cls) -> list[dict[str, Any]]:
        """JSON description of all settings."""
        defaults = {field.name: field.default for field in dataclasses.fields(cls)}
        return [s.describe(name, defaults[name]) for name, s in cls.settings().items()]

    @classmethod
    def from_params(cls, params: object) -> Any:
        """Build from a JSON object; faults carry the path of the setting."""
        if not isinstance(params, dict):
            raise BadSetting("", params, "must be an object of settings")
        known = cls.settings()
        for name in params:
            if name not in known:
                raise BadSetting(str(name), params[name], f"is not one of {', '.join(known)}")
        return cls(**params)

    def as_params(self) -> dict[str, Any]:
        """JSON object of every setting, defaults included."""
        return {name: _as_json(getattr(self, name)) for name in self.settings()}


def _as_json(value: Any) -> Any:
    if not isinstance(value, tuple):
        return value
    return [v.as_params() if isinstance(v, Declared) else v for v in value]


def _checked(name: str, value: Any, setting: Setting) -> Any:
    """Return the value in its settled type, or raise :class:`BadSetting`."""
    match setting.kind:
        case "number":
            return _checked_number(name, value, setting)
        case "numbers":
            return _checked_numbers(name, value, setting)
        case "switch":
            if not isinstance(value, bool):
                raise BadSetting(name, value, "must be true or false")
            return value
        case "choice":
            # True == 1 in Python; a choice of whole numbers must not take it.
            if isinstance(value, bool) or value not in setting.choices:
                allowed = ", ".join(str(c) for c in setting.choices)
                raise BadSetting(name, value, f"must be one of {allowed}")
            return value
        case _:
            return _checked_records(name, value, setting)


def _checked_number(name: str, value: Any, setting: Setting) -> float | str:
    low, high = setting.low, setting.high
    assert low is not None
    assert high is not None
    if setting.word is not None and value == setting.word:
        return setting.word
    either = f' or "{setting.word}"' if setting.word else ""
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise BadSetting(name, value, f"must be a number from {low:g} to {high:g}{either}")
    if not math.isfinite(value) or not low <= value <= high:
        raise BadSetting(name, value, f"must be from {low:g} to {high:g}{either}")
    return float(value)


def _checked_numbers(name: str, value: Any, setting: Setting) -> tuple[float, ...]:
    most = setting.most
    assert most is not None
    if not isinstance(value, list | tuple) or not 1 <= len(value) <= most:
        raise BadSetting(name, value, f"must be a list of 1 to {most} numbers")
    made = tuple(
        float(_checked_number(f"{name}[{i}]", entry, setting)) for i, entry in enumerate(value)
    )
    if any(later <= earlier for earlier, later in itertools.pairwise(made)):
        raise BadSetting(name, value, "must rise from one number to the next")
    return made


def _checked_records(name: str, value: Any, setting: Setting) -> tuple[Declared, ...]:
    record, most = setting.record, setting.most
    assert record is not None
    assert most is not None
    if not isinstance(value, list | tuple):
        raise BadSetting(name, value, "must be a list")
    if len(value) > most:
        raise BadSetting(name, len(value), f"must hold at most {most} entries")
    made: list[Declared] = []
    for index, entry in enumerate(value):
        if isinstance(entry, record):
            made.append(entry)
            continue
        try:
            made.append(record.from_params(entry))
        except BadSetting as fault:
            dot = "." if fault.path else ""
            raise fault.under(f"{name}[{index}]{dot}") from None
    return tuple(made)
