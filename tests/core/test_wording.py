"""Habits of wording that make the text hard to read; once removed, they stay away."""

from __future__ import annotations

import re

import pytest

from tests.made_sound import ROOT

#: The habit, and what to write instead.
HABITS = {
    r"\b(is|are|was|were|be|been|being) told\b": "reported, estimated, shown, distinguished",
    r"\bcan(not| not)? be told\b": "can(not) be determined",
    r"\btold (from|by) (the|its|how|what)\b": "estimated from",
    r"\bheard beside words\b": "audible beside words",
    r"\breads on without pausing\b": "speaks without pauses",
    r'"""(All|The same|Keep it|Declare them)\."""': "a sentence that says what",
}
PLACES = ("src/**/*.py", "web/src/**/*.ts", "web/src/**/*.tsx", "docs/**/*.md", "README.md")
#: Generated from others.
NOT_OURS = ("web_build", "schema.d.ts", "_build", "docs/reference", "migrations")


@pytest.mark.parametrize("habit", HABITS)
def test_habits_stay_away(habit):
    found = [
        f"{path.relative_to(ROOT)}:{number}: {line.strip()}"
        for pattern in PLACES
        for path in ROOT.glob(pattern)
        if not any(part in path.as_posix() for part in NOT_OURS)
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
        if re.search(habit, line)
    ]
    assert not found, f"write: {HABITS[habit]}\n" + "\n".join(found)
