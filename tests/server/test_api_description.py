"""The API's description and the types made from it are kept in the repository, and fresh."""

from __future__ import annotations

import json
import shutil
import subprocess

import pytest
from django.db import connection
from drf_spectacular.generators import SchemaGenerator
from drf_spectacular.validation import validate_schema

from tests.made_sound import ROOT


@pytest.mark.skipif(
    connection.vendor != "sqlite", reason="the description names the least and most of its integers"
)
def test_the_description_is_valid_and_fresh():
    schema = SchemaGenerator().get_schema(request=None, public=True)
    validate_schema(schema)
    kept = json.loads((ROOT / "docs" / "openapi.json").read_text())
    assert kept == json.loads(json.dumps(schema)), "stale: run `make types`"


def test_the_types_of_the_page_are_fresh(tmp_path):
    tool = ROOT / "web" / "node_modules" / ".bin" / "openapi-typescript"
    if not tool.exists() or not shutil.which("node"):
        pytest.skip("front-end tools are not installed")
    made = tmp_path / "schema.d.ts"
    subprocess.run(
        [tool, ROOT / "docs" / "openapi.json", "-o", made], check=True, capture_output=True
    )
    kept = ROOT / "web" / "src" / "api" / "schema.d.ts"
    assert kept.read_text() == made.read_text(), "stale: run `make types`"


def test_no_error_page_shows_a_traceback(client, db):
    answer = client.get("/api/openapi.json")
    assert answer.status_code == 200
    for path in ("/assets/none.js", "/api/none"):
        assert client.get(path).status_code == 404
