"""Settings in words, as on a receipt: "Peak \u22123 dB; Counted as True peak"."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from zesty_core.foundation.settings import Declared, Setting

_MINUS = "\u2212"


def settings_in_words(declared: Declared) -> str:
    """All settings of a step or of one of its bands, in their order."""
    return "; ".join(
        f"{setting.label} {_value(getattr(declared, name), _with_unit(declared, setting))}"
        for name, setting in type(declared).settings().items()
    )


def _with_unit(declared: Declared, setting: Setting) -> Setting:
    """The setting with the unit that another one decides."""
    if setting.unit_by is None:
        return setting
    by, units = setting.unit_by
    return replace(setting, unit=units.get(str(getattr(declared, by)), setting.unit))


def _value(value: Any, setting: Setting) -> str:
    match value:
        case bool():
            return "on" if value else "off"
        case int() | float():
            return _number(value, setting)
        case str():
            return setting.words.get(value, value.replace("_", " "))
    if not value:
        return "none"
    if isinstance(value[0], Declared):
        return " | ".join(settings_in_words(one) for one in value)
    return ", ".join(_number(one, setting) for one in value)


def _number(value: float, setting: Setting) -> str:
    if setting.is_share:
        return f"{100 * value:g} %"
    number = f"{value:g}".replace("-", _MINUS)
    return f"{number} {setting.unit}".strip()
