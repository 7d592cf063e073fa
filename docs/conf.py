"""Builds the documentation: ``make docs``. Nothing of it is loaded from the network at view time."""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "src"))

from zesty_core.foundation.version import __version__

project = "Zesty Voice"
release = __version__
copyright = "the makers of Zesty Voice"
extensions = [
    "myst_parser",
    "sphinx.ext.autodoc",
    "sphinx.ext.autosummary",
    "sphinx.ext.napoleon",
    "sphinx.ext.viewcode",
    "sphinxcontrib.openapi",
]
source_suffix = {".md": "markdown", ".rst": "restructuredtext"}
exclude_patterns = ["_build", "example-step", "screenshots/*.py"]
myst_heading_anchors = 4
myst_enable_extensions = ["colon_fence"]
suppress_warnings = ["myst.xref_missing"]
autodoc_member_order = "bysource"
autodoc_typehints = "description"
autosummary_generate = True
napoleon_google_docstring = False
html_theme = "furo"
html_title = f"Zesty Voice {release}"
html_theme_options = {"source_edit_link": "", "top_of_page_buttons": []}
html_show_sphinx = False
nitpicky = False
