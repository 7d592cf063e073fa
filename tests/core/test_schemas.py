"""The published schemas describe what the code reads and writes."""

from __future__ import annotations

import importlib.util
import json

import jsonschema
import pytest

from tests.made_sound import ROOT, STARTER, noise, spoken, write
from zesty_cli.main import main
from zesty_core.starters import starter_documents
from zesty_core.targets.starters import STARTERS

FOLDER = ROOT / "docs" / "schemas"


def validator(name):
    schema = json.loads((FOLDER / f"{name}.schema.json").read_text())
    jsonschema.Draft202012Validator.check_schema(schema)
    return jsonschema.Draft202012Validator(schema)


def test_published_schemas_are_those_of_the_code():
    spec = importlib.util.spec_from_file_location("schemas", FOLDER / "make.py")
    make = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(make)
    for name, schema in make.schemas().items():
        kept = json.loads((FOLDER / f"{name}.schema.json").read_text())
        assert kept == json.loads(json.dumps(schema)), f"{name}: run docs/schemas/make.py"


def test_supplied_documents_are_valid():
    recipes = [json.loads(text) for _, text in starter_documents()]
    for document in [*recipes, json.loads(STARTER.read_text())]:
        validator("recipe").validate(document)
    for target in STARTERS:
        validator("target").validate(target.as_json())


@pytest.mark.parametrize(
    "change",
    [
        {"version": 3},
        {"steps": [{"type": "nothing"}]},
        {"steps": [{"type": "gain", "params": {"gain_db": 1000}}]},
        {"steps": [{"type": "gain", "params": {"gain": 1}}]},
        {"colour": "red"},
    ],
)
def test_what_the_reader_refuses_the_schema_refuses(change):
    document = {"format": "zesty-recipe", "version": 1, "name": "a", "steps": []}
    validator("recipe").validate(document)
    assert list(validator("recipe").iter_errors(document | change))


def test_outputs_of_the_command_line_are_valid(tmp_path, capsys):
    take = write(tmp_path / "a.wav", spoken(4) + noise(-60, 4))
    assert main(["measure", str(take), "--json"]) == 0
    validator("measures").validate(json.loads(capsys.readouterr().out))
    done = tmp_path / "b.wav"
    assert main(["process", str(take), str(done), "--recipe", str(STARTER), "--json"]) == 0
    validator("processed").validate(json.loads(capsys.readouterr().out))


def test_receipts_are_valid(tmp_path, capsys):
    take = write(tmp_path / "a.wav", spoken(4) + noise(-60, 4))
    out = tmp_path / "done"
    order = ["batch", str(take), "--recipe", str(STARTER), "--out", str(out)]
    main([*order, "--target", "Podcast, stereo", "--json"])
    (outcome,) = json.loads(capsys.readouterr().out)
    (kept,) = [json.loads(p.read_text()) for p in out.glob("*.json")]
    for receipt in (kept, outcome["receipt"]):
        validator("receipt").validate(receipt)
