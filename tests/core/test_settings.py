"""Declared settings: what is allowed, what is refused with its path, and how forms see them."""

from __future__ import annotations

import dataclasses

import pytest

from zesty_core.foundation.errors import BadSetting
from zesty_core.foundation.settings import (
    Declared,
    choice,
    number,
    number_or_word,
    numbers,
    records,
    switch,
)


@dataclasses.dataclass(frozen=True, kw_only=True)
class Leaf(Declared):
    size: float = number("Size", default=1.0, low=0, high=10, unit="cm", help="How long it is.")


@dataclasses.dataclass(frozen=True, kw_only=True)
class Plant(Declared):
    height_db: float = number(
        "Height", default=-3.0, low=-60, high=0, usual=(-6, -1), unit="dB", help="How tall."
    )
    colour: str = choice("Colour", default="green", choices=("green", "red"), help="Its colour.")
    rings: int = choice("Rings", default=1, choices=(1, 2, 4), help="How many.")
    alive: bool = switch("Alive", default=True, help="Whether it grows.")
    makeup: float | str = number_or_word(
        "Make-up", word="auto", default="auto", low=-3, high=3, help="By itself or by hand."
    )
    forks_hz: tuple[float, ...] = numbers(
        "Forks", default=(100.0, 200.0), low=20, high=500, most=3, help="Where it forks."
    )
    leaves: tuple[Leaf, ...] = records("Leaves", Leaf, most=2, help="Its leaves.")


GOOD = [
    ({}, "height_db", -3.0),
    ({"height_db": -60}, "height_db", -60.0),
    ({"height_db": 0}, "height_db", 0.0),
    ({"colour": "red"}, "colour", "red"),
    ({"rings": 4}, "rings", 4),
    ({"alive": False}, "alive", False),
    ({"makeup": "auto"}, "makeup", "auto"),
    ({"makeup": 2}, "makeup", 2.0),
    ({"forks_hz": [30]}, "forks_hz", (30.0,)),
    ({"forks_hz": [30, 40.5, 500]}, "forks_hz", (30.0, 40.5, 500.0)),
    ({"leaves": [{"size": 2}, {}]}, "leaves", (Leaf(size=2.0), Leaf())),
]


@pytest.mark.parametrize(("params", "name", "value"), GOOD)
def test_good_settings_are_settled(params, name, value):
    plant = Plant.from_params(params)
    assert getattr(plant, name) == value
    assert Plant.from_params(plant.as_params()) == plant


BAD = [
    ({"height_db": 0.001}, "height_db", "must be from -60 to 0"),
    ({"height_db": -60.5}, "height_db", "must be from -60 to 0"),
    ({"height_db": float("nan")}, "height_db", "must be from -60 to 0"),
    ({"height_db": float("inf")}, "height_db", "must be from -60 to 0"),
    ({"height_db": "-3"}, "height_db", "must be a number from -60 to 0"),
    ({"height_db": True}, "height_db", "must be a number"),
    ({"height_db": None}, "height_db", "must be a number"),
    ({"height_db": [1]}, "height_db", "must be a number"),
    ({"colour": "blue"}, "colour", "must be one of green, red"),
    ({"colour": 1}, "colour", "must be one of green, red"),
    ({"rings": 3}, "rings", "must be one of 1, 2, 4"),
    ({"rings": True}, "rings", "must be one of 1, 2, 4"),
    ({"alive": 1}, "alive", "must be true or false"),
    ({"alive": "no"}, "alive", "must be true or false"),
    ({"makeup": "manual"}, "makeup", 'from -3 to 3 or "auto"'),
    ({"makeup": 4}, "makeup", 'must be from -3 to 3 or "auto"'),
    ({"forks_hz": []}, "forks_hz", "must be a list of 1 to 3 numbers"),
    ({"forks_hz": 100}, "forks_hz", "must be a list of 1 to 3 numbers"),
    ({"forks_hz": [30, 40, 50, 60]}, "forks_hz", "must be a list of 1 to 3 numbers"),
    ({"forks_hz": [40, 40]}, "forks_hz", "must rise"),
    ({"forks_hz": [40, 30]}, "forks_hz", "must rise"),
    ({"forks_hz": [40, 501]}, "forks_hz[1]", "must be from 20 to 500"),
    ({"leaves": {}}, "leaves", "must be a list"),
    ({"leaves": [{}, {}, {}]}, "leaves", "must hold at most 2 entries"),
    ({"leaves": [{}, {"size": 11}]}, "leaves[1].size", "must be from 0 to 10"),
    ({"leaves": [5]}, "leaves[0]", "must be an object of settings"),
    ({"leaves": [{"width": 1}]}, "leaves[0].width", "is not one of size"),
    ({"depth": 3}, "depth", "is not one of height_db, colour"),
]


@pytest.mark.parametrize(("params", "path", "told"), BAD)
def test_bad_settings_are_refused_with_path_value_and_what_is_allowed(params, path, told):
    with pytest.raises(BadSetting) as refused:
        Plant.from_params(params)
    assert refused.value.path == path
    assert told in refused.value.message
    assert "got " in refused.value.message


def test_descriptions_say_everything_a_form_needs():
    described = {d["name"]: d for d in Plant.describe()}
    assert list(described) == [f.name for f in dataclasses.fields(Plant)]
    height = described["height_db"]
    assert (height["kind"], height["unit"], height["low"], height["high"]) == (
        "number",
        "dB",
        -60,
        0,
    )
    assert height["usual"] == [-6, -1]
    assert described["makeup"]["word"] == "auto"
    assert described["forks_hz"]["kind"] == "numbers"
    assert described["forks_hz"]["default"] == [100.0, 200.0]
    assert described["leaves"]["record"][0]["name"] == "size"
    assert described["leaves"]["default"] == []
