"""Waiting for what takes the page and its server a moment."""

from __future__ import annotations

import time


def until(page, done, wait_s=30.0):
    """Wait for ``done()``, asked from here: the page's policy forbids it to compile questions."""
    end = time.monotonic() + wait_s
    while not done():
        assert time.monotonic() < end, f"waited {wait_s:g} s in vain"
        page.wait_for_timeout(100)
