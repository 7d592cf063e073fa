"""What reaches the audio output, as `listen.js` keeps it, and where in a sound it was taken from."""

from __future__ import annotations

import math
import time

import numpy as np
from scipy.signal import correlate

from tests.journeys.waiting import until
from tests.made_sound import RATE, level_db

#: So many samples come at a time.
PIECE = 4096
#: The recorder is behind by two of its blocks at most.
_LATE_S = 2 * 16_384 / RATE + 0.1


def heard(page, during_s):
    """What reaches the output in the next moments."""
    page.evaluate("() => { window.heard.length = 0; }")
    pieces = math.ceil((during_s + _LATE_S) * RATE / PIECE)
    # By what came, not by the clock: a busy machine's page falls behind.
    until(page, lambda: page.evaluate("() => window.heard.length") >= pieces)
    # What comes first was on its way before.
    return heard_so_far(page)[-round(during_s * RATE) :]


def heard_at(page, test, during_s=1.0, wait_s=20.0):
    """What is heard once it is as expected: what was changed takes the server and the loop a moment."""
    end = time.monotonic() + wait_s
    while not test(sound := heard(page, during_s)):
        assert time.monotonic() < end, f"heard in the end: {level_db(sound):.1f} dB"
    return sound


def heard_so_far(page):
    return np.concatenate(page.evaluate("() => window.heard"))


def place_of(piece, sound):
    """Where in ``sound`` the ``piece`` was taken from, and how well it fits there (1 exactly)."""
    alike = correlate(sound, piece, mode="valid", method="fft")
    # By the size of what is there: a soft piece must not be drawn to a loud place.
    energy = np.concatenate([[0.0], np.cumsum(np.square(sound, dtype=float))])
    there = energy[len(piece) :] - energy[: -len(piece)]
    fit = alike / (np.sqrt(np.maximum(there, 1e-12)) * np.linalg.norm(piece) + 1e-12)
    at = int(np.argmax(fit))
    return at, float(fit[at])
