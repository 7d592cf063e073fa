"""Compiled code that is kept on disk."""

from __future__ import annotations

import json
import os
import subprocess
import sys

import numpy as np
import pytest
from numba.core import caching

from tests.made_sound import RATE, noise, spoken, write
from zesty_core.chain.warm_up import warm_up
from zesty_core.dsp import extremes
from zesty_core.runtime import kept_code
from zesty_core.runtime.kernel import kernel
from zesty_core.starters import starter_documents


def test_kept_code_is_not_used_once_a_source_it_may_hold_has_changed(monkeypatch):
    cache, codegen = extremes.extremes._cache, extremes.extremes.targetctx.codegen()
    before = cache._index_key("signature", codegen)
    assert cache._index_key("signature", codegen) == before
    monkeypatch.setattr(kept_code, "_sources_stamp", lambda: (0, 0))
    assert cache._index_key("signature", codegen) != before


def test_kept_code_is_fetched_without_the_compiler(tmp_path):
    path = write(tmp_path / "a.wav", noise(-20, 1))
    code = (
        "import sys; from zesty_cli.main import main; main(['measure', sys.argv[1]]);"
        "print('compiles' if 'numba.np.arraymath' in sys.modules else 'fetches')"
    )
    # The first time it may have to compile.
    for _ in range(2):
        done = subprocess.run(
            [sys.executable, "-c", code, str(path)], capture_output=True, text=True, check=True
        )
    assert done.stdout.split()[-1] == "fetches"


def _refuse(*_):
    raise PermissionError("read-only")


def test_code_as_shipped_is_fetched_where_nothing_may_be_written(monkeypatch):
    loop = extremes.extremes
    loop(np.zeros(3, np.float32))
    monkeypatch.setattr(caching._CacheLocator, "ensure_cache_path", _refuse)
    kept = kept_code.kept_code(loop.py_func)
    assert kept.load_overload(loop.signatures[0], loop.targetctx) is not None
    monkeypatch.setattr(caching.FunctionCache, "save_overload", _refuse)
    kept.save_overload(loop.signatures[0], None)


def test_without_any_place_loops_are_compiled_anew(monkeypatch):
    monkeypatch.setattr(caching._CacheLocator, "ensure_cache_path", _refuse)
    monkeypatch.setattr(kept_code._AsShipped, "ensure_cache_path", _refuse)
    assert kernel(lambda number: number + 1)(41) == 42


def test_code_just_compiled_and_code_from_disk_give_the_same_bits(tmp_path):
    code = (
        "import numpy as np; from zesty_core.dsp.voice_gain import voice_gain\n"
        "power = np.random.default_rng(0).chisquare(2, (40, 577)).astype(np.float32)\n"
        "power[10:20] *= 100\n"
        "scale, floor = np.full((3, 577), 0.1, np.float32), np.full(577, 0.1, np.float32)\n"
        "gain = voice_gain(power, np.ones(577), scale, 10 * floor, floor, 0.008, 41.7)\n"
        "print(gain.tobytes().hex())"
    )
    made = [
        subprocess.run(
            [sys.executable, "-c", code],
            capture_output=True,
            check=True,
            env={**os.environ, "NUMBA_CACHE_DIR": str(tmp_path)},
        ).stdout
        for _ in range(2)
    ]
    assert made[0] == made[1]
    assert list(tmp_path.rglob("*.nbc"))


@pytest.fixture(scope="module")
def warmed():
    """Set-up has done so; sources may have changed since."""
    warm_up()


@pytest.mark.parametrize("channels", [1, 2])
def test_nobody_waits_for_the_compiler_after_the_warm_up(warmed, tmp_path, channels):
    sound = spoken(8, channels=channels) + noise(-60, 8, RATE, channels=channels)
    take = write(tmp_path / "take.wav", sound)
    code = (
        "import sys; from pathlib import Path; from zesty_cli.main import main\n"
        "for recipe in Path(sys.argv[2]).iterdir():\n"
        "    for ending in ('wav', 'flac'):\n"
        "        main(['process', sys.argv[1], f'{recipe}.{ending}', '--recipe', str(recipe)])"
    )
    recipes = tmp_path / "recipes"
    recipes.mkdir()
    for name, text in starter_documents():
        (recipes / name).write_bytes(text)
    done = subprocess.run(
        [sys.executable, "-c", code, str(take), str(recipes)],
        capture_output=True,
        text=True,
        check=True,
        env={**os.environ, "NUMBA_DEBUG_CACHE": "1"},
    )
    assert len(list(recipes.glob("*.json.*"))) == 2 * len(list(starter_documents()))
    told = done.stdout + done.stderr
    assert "data loaded" in told
    assert "data saved" not in told


def test_another_layout_of_the_compiler_is_served_by_its_public_cache(tmp_path):
    """As where ``kept_code`` cannot be imported; sound and messages of the command line stay."""
    path = write(tmp_path / "a.wav", noise(-23, 1))
    code = (
        "import sys; sys.modules['zesty_core.runtime.kept_code'] = None\n"
        "from zesty_core.runtime import kernel; assert kernel.kept_code is None\n"
        "from zesty_cli.main import main; sys.exit(main(['measure', sys.argv[1], '--json']))"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(path)],
        capture_output=True,
        text=True,
        check=True,
        env={**os.environ, "NUMBA_CACHE_DIR": str(tmp_path / "cache")},
    )
    assert json.loads(done.stdout)["rms_dbfs"] == pytest.approx(-23, abs=0.1)
