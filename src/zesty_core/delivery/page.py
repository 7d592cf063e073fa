"""A page of its own: everything in one file, nothing loaded from anywhere."""

from __future__ import annotations

from html import escape

_STYLE = """
:root { color-scheme: light; --paper: #FBF7EF; --card: #FFF; --pith: #F0E7D8; --ink: #261F2E;
  --muted: #6B6272; --before: #6A3D7C; --after: #B53A07; --pass: #236341; --fail: #B4232C; }
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 60rem; padding: 2rem 1.5rem 4rem; background: var(--paper);
  color: var(--ink); font: 15px/1.5 system-ui, sans-serif; font-variant-numeric: tabular-nums; }
h1, h2 { font-family: Georgia, serif; font-weight: 600; line-height: 1.2; }
h1 { font-size: 1.7rem; margin: 0 0 .25rem; } h2 { font-size: 1.2rem; margin: 2rem 0 .5rem; }
p { margin: .25rem 0; } .muted { color: var(--muted); }
table { border-collapse: collapse; width: 100%; background: var(--card); border-radius: 12px; }
th, td { text-align: left; padding: .35rem .75rem; border-bottom: 1px solid var(--pith);
  vertical-align: top; } th { font-weight: 600; } .n { text-align: right; white-space: nowrap; }
.before { color: var(--before); } .after { color: var(--after); }
.met { color: var(--pass); font-weight: 600; } .missed { color: var(--fail); font-weight: 600; }
code { font-size: .85em; overflow-wrap: anywhere; }
"""


def page(title: str, body: str, *, style: str = "", script: str = "") -> str:
    """A whole HTML document; ``body`` is HTML already, ``title`` is text."""
    scripts = f"<script>{script}</script>" if script else ""
    return (
        '<!doctype html>\n<html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width, initial-scale=1">'
        f"<title>{escape(title)}</title><style>{_STYLE}{style}</style></head>"
        f"<body>{body}{scripts}</body></html>\n"
    )


def table(head: list[str], rows: list[list[str]], numbers_from: int = 1) -> str:
    """A table of cells that are HTML already; figures stand right, from a column on."""

    def line(tag: str, cells: list[str]) -> str:
        made = (
            f'<{tag} class="n">{cell}</{tag}>' if at >= numbers_from else f"<{tag}>{cell}</{tag}>"
            for at, cell in enumerate(cells)
        )
        return f"<tr>{''.join(made)}</tr>"

    titles = line("th", [escape(cell) for cell in head])
    lines = "".join(line("td", row) for row in rows)
    return f"<table><thead>{titles}</thead><tbody>{lines}</tbody></table>"
