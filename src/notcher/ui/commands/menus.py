"""The menus of the window, left to right."""

MENUS = ("&File", "&Edit", "&Walk", "&Place", "&Time", "F&orm", "&Note", "&Curve", "&Play", "&Ledger", "&View", "&Help")
