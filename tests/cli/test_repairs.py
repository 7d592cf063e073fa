"""``zesty process --repairs``: events to leave alone, from a file."""

from __future__ import annotations

import json

import numpy as np
import soundfile

from tests.made_sound import RATE, noise, write
from zesty_cli.main import BAD_USE, DONE, main


def test_what_is_refused_in_a_file_stays(tmp_path, capsys):
    sound, at = noise(-60, 4, RATE), 2 * RATE
    sound[0, at : at + 24] += 0.3 * np.hanning(24).astype(np.float32)
    take = write(tmp_path / "take.wav", sound)
    recipe, marks = tmp_path / "clicks.zesty.json", tmp_path / "marks.json"
    recipe.write_text(
        json.dumps(
            {"format": "zesty-recipe", "version": 2, "name": "C", "steps": [{"type": "click"}]}
        )
    )
    refused = {"type": "click", "start_s": 1.9, "end_s": 2.1}
    marks.write_text(json.dumps({"refused": [refused], "added": []}))

    def process(out, *more):
        return main(["process", str(take), str(tmp_path / out), "--recipe", str(recipe), *more])

    assert process("mended.wav") == process("left.wav", "--repairs", str(marks)) == DONE
    peaks = [
        np.abs(soundfile.read(tmp_path / name)[0][at - 100 : at + 200]).max()
        for name in ("mended.wav", "left.wav")
    ]
    assert peaks[1] > 20 * peaks[0]
    marks.write_text("{")
    assert process("other.wav", "--repairs", str(marks)) == BAD_USE
    assert "cannot be read" in capsys.readouterr().err
