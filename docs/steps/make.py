"""Write the pages about steps: settings from their declarations, formulas from the modules.

Run by ``make golden``; a test fails when the pages are stale.
"""

from __future__ import annotations

import inspect
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[2]))

from zesty_core.foundation.settings import Declared, Setting
from zesty_core.steps.base import Step
from zesty_core.steps.registry import STEP_TYPES

FOLDER = Path(__file__).parent


def page(step: type[Step]) -> str:
    """Markdown page of a step."""
    words = step.guide
    module = inspect.getmodule(step)
    assert module is not None
    title, _, formulas = (module.__doc__ or "").strip().partition("\n")
    lines = [
        f"# {step.label}",
        "",
        f"`{step.type}`: {step.summary}.",
        "",
        words.purpose,
        "",
        "## Where to start (common practice, no source)",
        *(f"- {point}" for point in words.starting_points),
        "",
        f"**Watch for.** {words.watch_for}",
        "",
        "## Settings",
        "",
        *table(step),
        "",
        "## How it works",
        "",
        title,
        *(formulas.split("\n") if formulas else []),
        "",
    ]
    return "\n".join(lines).replace("``", "`")


def table(declared: type[Declared]) -> list[str]:
    """Settings of a step, and below them those of its records."""
    rows = [
        "| setting | | range | usual | default | |",
        "|---|---|---|---|---|---|",
    ]
    more: list[str] = []
    for description, (name, setting) in zip(
        declared.describe(), declared.settings().items(), strict=True
    ):
        default = description["default"]
        shown = "" if setting.kind == "records" else value(default)
        usual = f"{setting.usual[0]:g} to {setting.usual[1]:g}" if setting.usual else ""
        rows.append(
            f"| `{name}` | {setting.label} | {span(setting)} | {usual} | {shown} | {setting.help} |"
        )
        if setting.record is not None:
            record = setting.record
            if issubclass(record, Step):
                more += ["", f"Each of `{name}` has the settings of the [{record.label.lower()}]"
                         f"({record.type}.md)."]  # fmt: skip
            else:
                more += ["", f"Each of `{name}`:", "", *table(record)]
    return rows + more


def span(setting: Setting) -> str:
    """What is allowed, in words."""
    match setting.kind:
        case "switch":
            return "on, off"
        case "choice":
            return f"{', '.join(str(c) for c in setting.choices)} {setting.unit}".strip()
        case "records":
            return f"up to {setting.most}"
        case _:
            word = f' or "{setting.word}"' if setting.word else ""
            several = f"1 to {setting.most} numbers, " if setting.kind == "numbers" else ""
            return f"{several}{setting.low:g} to {setting.high:g} {setting.unit}".strip() + word


def value(default: object) -> str:
    """A default as it stands in a recipe."""
    match default:
        case bool():
            return "on" if default else "off"
        case float():
            return f"{default:.6g}"
        case list():
            return ", ".join(f"{v:g}" for v in default)
        case _:
            return str(default)


def pages() -> dict[Path, str]:
    """Every page by its path."""
    made = {FOLDER / f"{name}.md": page(step) for name, step in STEP_TYPES.items()}
    index = ["# Steps", "", "In the usual order of a chain.", ""]
    index += [f"- [{s.label}]({n}.md): {s.summary}" for n, s in STEP_TYPES.items()]
    # For the built documentation; the list above serves readers of the plain files.
    index += ["", "```{toctree}", ":hidden:", ":glob:", "", "*", "```"]
    return made | {FOLDER / "README.md": "\n".join([*index, ""])}


if __name__ == "__main__":
    for path, text in pages().items():
        path.write_text(text)
