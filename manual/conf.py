"""How the manual is built: `make manual`."""

project = "Undatum"
author = "The Undatum authors"
extensions = ["myst_parser"]
myst_enable_extensions = ["deflist"]
myst_heading_anchors = 3
html_theme = "alabaster"
html_theme_options = {
    "description": "Seismic analysis of buildings, traceable to the clause",
    "page_width": "1080px", "sidebar_width": "230px", "fixed_sidebar": True,
}
html_show_sourcelink = False
exclude_patterns = ["_build"]
suppress_warnings = ["myst.header"]
