"""Builds the documentation: ``make docs``. Nothing of it is loaded from the network at view time."""

import sys
from pathlib import Path

sys.path[:0] = [str(Path(__file__).parents[1] / "src"), str(Path(__file__).parent)]

import http_reference

from zesty_core.foundation.version import __version__

http_reference.write()

project = "Zesty Voice"
release = __version__
copyright = "the makers of Zesty Voice"
extensions = [
    "myst_parser",
    "sphinx.ext.autodoc",
    "sphinx.ext.apidoc",
    "sphinx.ext.napoleon",
]
source_suffix = {".md": "markdown", ".rst": "restructuredtext"}
exclude_patterns = ["_build", "example-step", "screenshots", "reference/core/modules.rst"]
myst_heading_anchors = 4
myst_enable_extensions = ["colon_fence"]
autodoc_member_order = "bysource"
autodoc_typehints = "signature"
apidoc_modules = [
    {
        "path": "../src/zesty_core",
        "destination": "reference/core",
        "max_depth": 2,
        "module_first": True,
        "separate_modules": True,
    }
]
napoleon_google_docstring = False
napoleon_use_ivar = True
# Field names such as "path" are those of many classes.
suppress_warnings = ["ref.python"]
html_theme = "furo"
html_title = f"Zesty Voice {release}"
html_theme_options = {"source_edit_link": "", "top_of_page_buttons": []}
html_show_sphinx = False
