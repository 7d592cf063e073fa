"""Compiled code that is kept on disk."""

from __future__ import annotations

import subprocess
import sys

from tests.made_sound import noise, write
from zesty_core.dsp import extremes, kernel


def test_kept_code_is_not_used_once_a_source_it_may_hold_has_changed(monkeypatch):
    cache, codegen = extremes.extremes._cache, extremes.extremes.targetctx.codegen()
    before = cache._index_key("signature", codegen)
    assert cache._index_key("signature", codegen) == before
    monkeypatch.setattr(kernel, "_sources_stamp", lambda: (0, 0))
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
